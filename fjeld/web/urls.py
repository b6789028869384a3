"""All addresses."""

from django.contrib.auth.views import LogoutView
from django.urls import path

from fjeld.web import workspace
from fjeld.web.accounts import views as accounts
from fjeld.web.bench import views as bench
from fjeld.web.desk import exports, people
from fjeld.web.desk import views as jobs
from fjeld.web.errand import houses, kept, photos, step, steps
from fjeld.web.errand import sheet as errand_sheet
from fjeld.web.errand import views as errand
from fjeld.web.errand.declared import ERRAND_STEPS
from fjeld.web.health import health
from fjeld.web.layout import photometry, sheet
from fjeld.web.survey import underlay

#: The pages of an errand, and what is told on those that have a form of their own.
errand_pages = [
    path(f"jobs/<int:job_id>/{page.path}", step.show, {"step": page}, name=page.address)
    for page in ERRAND_STEPS.values()
]
errand_pages += [
    path(f"jobs/<int:job_id>/{page.path}/told", step.told, {"step": page}, name=f"{page.address}-told")
    for page in ERRAND_STEPS.values()
    if page.told
]

urlpatterns = [
    *errand_pages,
    path("", jobs.index, name="jobs"),
    path("health", health, name="health"),
    path("sign-in", accounts.sign_in, name="sign-in"),
    path("sign-up", accounts.sign_up, name="sign-up"),
    path("sign-out", LogoutView.as_view(), name="sign-out"),
    path("account", accounts.account, name="account"),
    path("account/delete", accounts.leave, name="leave"),
    path("demo", accounts.demo, name="demo"),
    path("theme", accounts.theme, name="theme"),
    path("schema/job-file.json", jobs.schema, name="schema"),
    path("bench/", bench.index, name="bench"),
    path("bench/<str:name>", bench.question, name="question"),
    path("jobs/new", jobs.new, name="new-job"),
    path("jobs/import", jobs.bring_in, name="import"),
    path("jobs/<int:job_id>/copy", jobs.copy, name="copy"),
    path("jobs/<int:job_id>/archive", jobs.archive, name="archive"),
    path("jobs/<int:job_id>/delete", jobs.delete, name="delete-job"),
    path("jobs/<int:job_id>/people", people.page, name="people"),
    path("jobs/<int:job_id>/people/role", people.role, name="role"),
    path("jobs/<int:job_id>/people/take-off", people.take_off, name="take-off"),
    path("jobs/<int:job_id>/head", workspace.head, name="head"),
    path("jobs/<int:job_id>/export/<str:name>", exports.export, name="export"),
    path("jobs/<int:job_id>/underlay", underlay.bring_in, name="underlay"),
    path("jobs/<int:job_id>/photometry", photometry.read_in, name="photometry"),
    path("jobs/<int:job_id>/sheets/mark-out", sheet.mark_out, name="mark-out"),
    path("jobs/<int:job_id>/sheets/mark-out.pdf", sheet.mark_out, {"as_pdf": True}, name="mark-out-pdf"),
    path("jobs/<int:job_id>/searches/stop", workspace.stop_searches, name="stop-searches"),
    path("errand", errand.start, name="start-errand"),
    path("jobs/<int:job_id>/errand/take-back", errand.take_back, name="errand-take-back"),
    path("jobs/<int:job_id>/errand/meant", errand.meant, name="errand-meant"),
    path("jobs/<int:job_id>/errand/record", errand.record, name="errand-record"),
    path("jobs/<int:job_id>/errand/strike", errand.strike, name="errand-strike"),
    path("jobs/<int:job_id>/errand/kept", kept.kept, name="errand-kept"),
    path("jobs/<int:job_id>/errand/kept.json", kept.kept_json, name="errand-kept-json"),
    path("jobs/<int:job_id>/errand/kept.zip", kept.kept_zip, name="errand-kept-zip"),
    path("jobs/<int:job_id>/errand/step", steps.step, name="errand-step"),
    path("jobs/<int:job_id>/errand/sheet", errand_sheet.sheet, name="errand-sheet"),
    path("jobs/<int:job_id>/errand/sheet.pdf", errand_sheet.sheet, {"as_pdf": True}, name="errand-sheet-pdf"),
    path("jobs/<int:job_id>/errand/adopt", houses.adopt, name="errand-adopt"),
    path("jobs/<int:job_id>/errand/begin", houses.begin, name="errand-begin"),
    path("jobs/<int:job_id>/errand/photo", photos.take, name="errand-photo"),
    path("jobs/<int:job_id>/errand/photo/<int:photo>", photos.show, name="errand-photo-show"),
    path("jobs/<int:job_id>/errand/photo/<int:photo>/strike", photos.strike, name="errand-photo-strike"),
    path("jobs/<int:job_id>/errand/photo/<int:photo>/delete", photos.delete, name="errand-photo-delete"),
    path("jobs/<int:job_id>/errand/do/<str:action>", errand.act, name="errand-act"),
    path("jobs/<int:job_id>/<str:waypoint>/", workspace.page, name="waypoint"),
    path("jobs/<int:job_id>/<str:waypoint>/do/<str:action>", workspace.act, name="act"),
    path("jobs/<int:job_id>/<str:waypoint>/<str:which>", workspace.take_back, name="take-back"),
]
