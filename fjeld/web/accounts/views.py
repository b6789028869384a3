"""Sign in, sign up, sign out, the demo's one click, and day or headlamp."""

from __future__ import annotations

import logging

from django.conf import settings
from django.contrib import messages
from django.contrib.auth import get_user_model, login, logout, update_session_auth_hash
from django.contrib.auth.decorators import login_not_required
from django.contrib.auth.forms import PasswordChangeForm, UserCreationForm
from django.contrib.auth.views import LoginView
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.utils.decorators import method_decorator
from django.utils.http import url_has_allowed_host_and_scheme
from django.views.decorators.http import require_POST

from fjeld import __version__
from fjeld.web.accounts.models import Attempt, bare_name
from fjeld.web.jobs import deletion
from fjeld.web.jobs.models import Job, Member
from fjeld.web.ui.panel import Shown, context

DEMO_USER = "demo"
#: Wrong passwords for one name from one address, and from one address whatever the name, before a rest of ten
#: minutes.
TRIES, SPRAYED, REST = 8, 60, 600
log = logging.getLogger("fjeld.accounts")


def address_of(request: HttpRequest) -> str:
    """The address that a request came from: as the outermost of the trusted proxies saw it, if
    there are any.
    """
    told = str(request.META.get("HTTP_X_FORWARDED_FOR", "")).split(",")
    if 0 < settings.PROXIES <= len(told) and told[-settings.PROXIES].strip():
        return told[-settings.PROXIES].strip()[:60]
    return str(request.META.get("REMOTE_ADDR", ""))


class SignUp(Shown, frozen=True):
    """The form of a new account."""

    form: UserCreationForm


class Account(Shown, frozen=True):
    """The form of another password, where there is one, and the jobs that would go with the account."""

    form: PasswordChangeForm | None
    alone: list[Job]
    version: str


class SignIn(LoginView):
    """Django's own sign-in, throttled by name and address, and by address alone."""

    template_name = "accounts/sign-in.html"
    redirect_authenticated_user = True

    def _keys(self) -> tuple[str, str]:
        address = address_of(self.request)
        return f"{bare_name(str(self.request.POST.get('username', '')))} {address}", address

    def post(self, request: HttpRequest, *args: object, **kwargs: object) -> HttpResponse:
        both, address = self._keys()
        if (
            Attempt.count("sign-in", both, REST) >= TRIES
            or Attempt.count("sign-in", address, REST) >= SPRAYED
        ):
            form = self.get_form()
            form.full_clean()
            form.errors.clear()
            form.add_error(None, "Too many wrong tries. Wait ten minutes.")
            return self.render_to_response(self.get_context_data(form=form), status=429)
        return super().post(request, *args, **kwargs)

    def form_invalid(self, form: object) -> HttpResponse:
        Attempt.note("sign-in", *self._keys())
        log.warning("a sign-in failed from %s", address_of(self.request))
        return super().form_invalid(form)


sign_in = method_decorator(login_not_required, name="dispatch")(SignIn).as_view()


@login_not_required
def sign_up(request: HttpRequest) -> HttpResponse:
    """Make an account and sign in, where strangers may."""
    if not settings.SIGN_UP:
        raise Http404("accounts are made by who runs this")
    address = address_of(request)
    form = UserCreationForm(request.POST or None)
    if request.method == "POST" and Attempt.count("sign-up", address, 3600) >= settings.SIGN_UPS_AN_HOUR:
        form.full_clean()
        form.errors.clear()
        form.add_error(None, "Too many accounts were made from here. Wait an hour.")
        return render(request, "accounts/sign-up.html", context(SignUp(form)), status=429)
    if request.method == "POST" and form.is_valid():
        Attempt.note("sign-up", address)
        login(request, form.save(), backend="django.contrib.auth.backends.ModelBackend")
        return redirect("jobs")
    return render(request, "accounts/sign-up.html", context(SignUp(form)), status=422 if form.errors else 200)


def account(request: HttpRequest) -> HttpResponse:
    """One's own account: its password, and the way out."""
    form = PasswordChangeForm(request.user, request.POST if "old_password" in request.POST else None)
    guesses = f"{request.user.pk}"
    if request.method == "POST" and Attempt.count("old-password", guesses, REST) >= TRIES:
        messages.error(request, "Too many wrong tries. Wait ten minutes.")
        return redirect("account")
    if request.user.get_username() == DEMO_USER:
        form = None
    if request.method == "POST" and form is not None and form.is_valid():
        form.save()
        update_session_auth_hash(request, form.user)
        messages.success(request, "Your password is changed. Other devices are signed out.")
        return redirect("account")
    owned = Member.objects.filter(user_id=request.user.pk, role=Member.Role.OWNER).select_related("job")
    alone = [
        m.job for m in owned if not m.job.members.filter(role=Member.Role.OWNER).exclude(pk=m.pk).exists()
    ]
    if form is not None and "old_password" in form.errors:
        Attempt.note("old-password", guesses)
    status = 422 if form is not None and form.errors else 200
    return render(request, "accounts/account.html", context(Account(form, alone, __version__)), status=status)


@require_POST
def leave(request: HttpRequest) -> HttpResponse:
    """Delete one's account: jobs that only this person owns go with it, in others the name is taken off the
    steps.
    """
    user = get_user_model().objects.get(pk=request.user.pk)
    if user.get_username() == DEMO_USER:
        messages.error(request, "The demo's account stays.")
        return redirect("account")
    if Attempt.count("old-password", f"{user.pk}", REST) >= TRIES:
        messages.error(request, "Too many wrong tries. Wait ten minutes; nothing was deleted.")
        return redirect("account")
    if not user.check_password(str(request.POST.get("password", ""))):
        Attempt.note("old-password", f"{user.pk}")
        messages.error(request, "That is not your password; nothing was deleted.")
        return redirect("account")
    deletion.delete_account(user)
    logout(request)
    return redirect("sign-in")


@login_not_required
@require_POST
def demo(request: HttpRequest) -> HttpResponse:
    """Sign in as the demo's person; only where the demo is served."""
    user = get_user_model().objects.filter(username=DEMO_USER).first()
    if not settings.DEMO or user is None:
        raise Http404("no demo here")
    login(request, user, backend="django.contrib.auth.backends.ModelBackend")
    return redirect("jobs")


@login_not_required
@require_POST
def theme(request: HttpRequest) -> HttpResponse:
    """Day or headlamp, kept in a cookie."""
    there = str(request.POST.get("next", "/"))
    if not url_has_allowed_host_and_scheme(
        there, allowed_hosts={request.get_host()}, require_https=request.is_secure()
    ):
        there = "/"
    response = redirect(there)
    wanted = "headlamp" if request.POST.get("theme") == "headlamp" else "day"
    response.set_cookie(
        "fjeld-theme", wanted, max_age=31_536_000, samesite="Lax", secure=settings.TLS, httponly=True
    )
    return response
