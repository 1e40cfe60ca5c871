from django.conf import settings
from django.contrib.auth import login
from django.contrib.auth.decorators import login_not_required
from django.contrib.auth.views import LoginView
from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.csrf import ensure_csrf_cookie
from django.views.decorators.http import require_GET
from nineglass.documents.plain import made_plain

from accounts.models import WRONG_FOR, Entry, WrongEntry


@login_not_required
@require_GET
def enter(request, token: str):
    """Sign in by a one-time link."""
    person = Entry.redeem(token)
    if person is None:
        return render(request, "accounts/spent.html", status=410)
    login(request, person, backend="django.contrib.auth.backends.ModelBackend")
    return redirect("/")


class SignIn(LoginView):
    """Signing in by name and password; after some wrong ones nobody may try again for a while."""

    template_name = "accounts/sign_in.html"

    def post(self, request, *args, **kwargs):
        tried = (made_plain(request.POST.get("username", "")), request.META["REMOTE_ADDR"])
        if WrongEntry.are_too_many(*tried):
            return render(request, "accounts/wait.html", {"minutes": WRONG_FOR.seconds // 60}, status=429)
        answer = super().post(request, *args, **kwargs)
        if not request.user.is_authenticated:
            WrongEntry.note(*tried)
        return answer


@ensure_csrf_cookie
@require_GET
def bench(request, material_id=None):
    """The web application."""
    page = settings.WEB_DIST / "index.html"
    if not page.exists():
        return HttpResponse("The web application is not built: run ./start.", status=503, content_type="text/plain")
    return HttpResponse(page.read_bytes())
