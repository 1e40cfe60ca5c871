from django.conf import settings
from django.contrib.auth import login
from django.contrib.auth.decorators import login_not_required
from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.csrf import ensure_csrf_cookie
from django.views.decorators.http import require_GET

from accounts.models import Entry


@login_not_required
@require_GET
def enter(request, token: str):
    """Sign in by a one-time link."""
    person = Entry.redeem(token)
    if person is None:
        return render(request, "accounts/spent.html", status=410)
    login(request, person, backend="django.contrib.auth.backends.ModelBackend")
    return redirect("/")


@ensure_csrf_cookie
@require_GET
def bench(request, material_id=None):
    """The web application."""
    page = settings.WEB_DIST / "index.html"
    if not page.exists():
        return HttpResponse("The web application is not built: run ./start.", status=503, content_type="text/plain")
    return HttpResponse(page.read_bytes())
