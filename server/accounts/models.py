import hashlib
import secrets
from datetime import timedelta

from django.conf import settings
from django.db import models, transaction
from django.utils import timezone

ENTRY_LASTS = timedelta(minutes=30)


def _digest(token: str) -> str:
    return hashlib.sha256(token.encode()).hexdigest()


class Entry(models.Model):
    """A link that signs one person in, once. Only the token's digest is kept."""

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE)
    digest = models.CharField(max_length=64, unique=True)
    expires = models.DateTimeField()

    @classmethod
    def issue(cls, owner) -> str:
        """Make a token for a person and return it."""
        token = secrets.token_urlsafe(32)
        cls.objects.filter(expires__lt=timezone.now()).delete()
        cls.objects.create(owner=owner, digest=_digest(token), expires=timezone.now() + ENTRY_LASTS)
        return token

    @classmethod
    def redeem(cls, token: str):
        """The person whom a token signs in, or None; the token is spent."""
        with transaction.atomic():
            entry = cls.objects.select_for_update().filter(digest=_digest(token)).first()
            if entry is None:
                return None
            owner = entry.owner if entry.expires > timezone.now() and entry.owner.is_active else None
            entry.delete()
        return owner


INVITATION_LASTS = timedelta(days=14)


class Invitation(models.Model):
    """A link by which one person signs up, once. Only the token's digest is kept."""

    invited_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE, editable=False, related_name="+")
    note = models.CharField("for whom", max_length=120, blank=True)
    digest = models.CharField(max_length=64, unique=True, editable=False)
    expires = models.DateTimeField(editable=False)
    taken_by = models.OneToOneField(
        settings.AUTH_USER_MODEL, models.SET_NULL, null=True, editable=False, related_name="invitation"
    )

    class Meta:
        ordering = ["-expires"]

    def __str__(self) -> str:
        return self.note or f"invitation until {self.expires:%d %B %Y}"

    def issue(self, invited_by) -> str:
        """Keep the invitation under a new token, and return it."""
        token = secrets.token_urlsafe(32)
        self.invited_by, self.digest, self.expires = invited_by, _digest(token), timezone.now() + INVITATION_LASTS
        self.save()
        return token

    @classmethod
    def open(cls, token: str):
        """The invitation of a token that nobody has taken yet, locked; None where there is none."""
        waiting = cls.objects.select_for_update().filter(taken_by=None, expires__gt=timezone.now())
        return waiting.filter(digest=_digest(token)).first()


WRONG_FOR = timedelta(minutes=15)
MOST_WRONG = 10
MOST_WRONG_FROM_ONE_ADDRESS = 50


class WrongEntry(models.Model):
    """A name and password that did not go together."""

    name = models.CharField(max_length=150)
    address = models.CharField(max_length=64)
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        indexes = [models.Index(fields=["address", "name"])]

    @classmethod
    def note(cls, name: str, address: str) -> None:
        cls.objects.filter(at__lt=timezone.now() - WRONG_FOR).delete()
        cls.objects.create(name=name[:150], address=address)

    @classmethod
    def are_too_many(cls, name: str, address: str) -> bool:
        """Whether somebody at an address has to wait before a name is tried again."""
        lately = cls.objects.filter(address=address, at__gt=timezone.now() - WRONG_FOR)
        return lately.filter(name=name[:150]).count() >= MOST_WRONG or lately.count() >= MOST_WRONG_FROM_ONE_ADDRESS


class Preferences(models.Model):
    """A person's settings document."""

    owner = models.OneToOneField(settings.AUTH_USER_MODEL, models.CASCADE, primary_key=True)
    document = models.JSONField(default=dict)
