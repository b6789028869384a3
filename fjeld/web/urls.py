"""All addresses."""

from django.contrib.auth.decorators import login_not_required
from django.contrib.auth.views import LogoutView
from django.http import HttpRequest, HttpResponse
from django.urls import path

from fjeld.web import workspace
from fjeld.web.accounts import views as accounts
from fjeld.web.jobs import views as jobs
from fjeld.web.layout import photometry, sheet
from fjeld.web.survey import underlay


@login_not_required
def health(request: HttpRequest) -> HttpResponse:
    """Whether the process answers."""
    return HttpResponse("ok", content_type="text/plain")


urlpatterns = [
    path("", jobs.index, name="jobs"),
    path("health", health, name="health"),
    path("sign-in", accounts.sign_in, name="sign-in"),
    path("sign-up", accounts.sign_up, name="sign-up"),
    path("sign-out", LogoutView.as_view(), name="sign-out"),
    path("demo", accounts.demo, name="demo"),
    path("theme", accounts.theme, name="theme"),
    path("schema/job-file.json", jobs.schema, name="schema"),
    path("jobs/new", jobs.new, name="new-job"),
    path("jobs/import", jobs.bring_in, name="import"),
    path("jobs/<int:job_id>/copy", jobs.copy, name="copy"),
    path("jobs/<int:job_id>/archive", jobs.archive, name="archive"),
    path("jobs/<int:job_id>/head", workspace.head, name="head"),
    path("jobs/<int:job_id>/export/<str:name>", jobs.export, name="export"),
    path("jobs/<int:job_id>/underlay", underlay.bring_in, name="underlay"),
    path("jobs/<int:job_id>/photometry", photometry.read_in, name="photometry"),
    path("jobs/<int:job_id>/sheets/mark-out", sheet.mark_out, name="mark-out"),
    path("jobs/<int:job_id>/searches/stop", workspace.stop_searches, name="stop-searches"),
    path("jobs/<int:job_id>/<str:waypoint>/", workspace.page, name="waypoint"),
    path("jobs/<int:job_id>/<str:waypoint>/do/<str:action>", workspace.act, name="act"),
    path("jobs/<int:job_id>/<str:waypoint>/<str:which>", workspace.take_back, name="take-back"),
]
