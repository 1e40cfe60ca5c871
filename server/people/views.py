from accounts.models import WRONG_FOR, Invitation, WrongEntry
from django.contrib.auth import login
from django.contrib.auth.decorators import login_not_required
from django.contrib.auth.forms import UserCreationForm
from django.db import transaction
from django.shortcuts import redirect, render
from django.views.decorators.http import require_http_methods

from people.services import welcome

JOINING = "(an invitation)"
"""In place of a name, where tokens that are none are counted."""


@login_not_required
@require_http_methods(["GET", "POST"])
@transaction.atomic
def join(request, token: str):
    """Sign up by an invitation, with a name and a password of one's own."""
    address = request.META["REMOTE_ADDR"]
    if WrongEntry.are_too_many(JOINING, address):
        return render(request, "accounts/wait.html", {"minutes": WRONG_FOR.seconds // 60}, status=429)
    invitation = Invitation.open(token)
    if invitation is None:
        WrongEntry.note(JOINING, address)
        return render(request, "people/no_invitation.html", status=410)
    form = UserCreationForm(request.POST or None)
    if not form.is_valid():
        return render(request, "people/join.html", {"form": form})
    invitation.taken_by = form.save()
    invitation.save()
    welcome(invitation.taken_by)
    login(request, invitation.taken_by, backend="django.contrib.auth.backends.ModelBackend")
    return redirect("/")
