"""Sign in, sign up, sign out, the demo's one click, and day or headlamp."""

from __future__ import annotations

from django.conf import settings
from django.contrib.auth import get_user_model, login
from django.contrib.auth.decorators import login_not_required
from django.contrib.auth.forms import UserCreationForm
from django.contrib.auth.views import LoginView
from django.core.cache import cache
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.utils.decorators import method_decorator
from django.utils.http import url_has_allowed_host_and_scheme
from django.views.decorators.http import require_POST

DEMO_USER = "demo"
#: Wrong passwords for one name from one address before a rest of ten minutes.
TRIES, REST = 8, 600


class SignIn(LoginView):
    """Django's own sign-in, throttled by name and address."""

    template_name = "accounts/sign-in.html"
    redirect_authenticated_user = True

    def _key(self) -> str:
        name = str(self.request.POST.get("username", ""))[:80].lower()
        return f"tries:{hash((name, self.request.META.get('REMOTE_ADDR', '')))}"

    def post(self, request: HttpRequest, *args: object, **kwargs: object) -> HttpResponse:
        if cache.get(self._key(), 0) >= TRIES:
            form = self.get_form()
            form.full_clean()
            form.errors.clear()
            form.add_error(None, "Too many wrong tries. Wait ten minutes.")
            return self.render_to_response(self.get_context_data(form=form), status=429)
        return super().post(request, *args, **kwargs)

    def form_invalid(self, form: object) -> HttpResponse:
        cache.set(self._key(), cache.get(self._key(), 0) + 1, REST)
        return super().form_invalid(form)


sign_in = method_decorator(login_not_required, name="dispatch")(SignIn).as_view()


@login_not_required
def sign_up(request: HttpRequest) -> HttpResponse:
    """Make an account and sign in."""
    form = UserCreationForm(request.POST or None)
    if request.method == "POST" and form.is_valid():
        login(request, form.save(), backend="django.contrib.auth.backends.ModelBackend")
        return redirect("jobs")
    return render(request, "accounts/sign-up.html", {"form": form}, status=422 if form.errors else 200)


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
