import uuid

from django.conf import settings
from django.db import models


class KeptFile(models.Model):
    """A mesh, a lighting picture or a picture for surfaces that a person put in; its bytes are kept by content."""

    class Kind(models.TextChoices):
        MESH = "mesh"
        PICTURE = "picture"
        TEXTURE = "texture"
        PHOTOMETRY = "photometry"

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE)
    sha256 = models.CharField(max_length=64)
    kind = models.CharField(max_length=16, choices=Kind)
    name = models.CharField(max_length=200)
    bytes = models.PositiveBigIntegerField()
    facts = models.JSONField()
    is_lent = models.BooleanField(default=False)
    """Whether it came with something that was shared; it takes none of the person's room."""
    kept_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-kept_at"]
        constraints = [models.UniqueConstraint(fields=["owner", "sha256", "kind"], name="one_file_once")]


class KeptModule(models.Model):
    """A module that a person keeps for all their materials; `document` is its newest revision, a `ModuleFile`."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    owner = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE)
    name = models.CharField(max_length=120)
    revision = models.PositiveIntegerField(default=1)
    document = models.JSONField()
    kept_at = models.DateTimeField(auto_now=True)

    class Meta:
        ordering = ["name", "id"]


class KeptPreset(models.Model):
    """A band with what drives it, or a whole section, that a person keeps to begin with: `document` is a material of that alone."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    owner = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE)
    name = models.CharField(max_length=120)
    is_whole = models.BooleanField()
    """Whether it takes the place of a section, or is one band of it."""
    document = models.JSONField()
    kept_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["name", "id"]


class KeptSwatch(models.Model):
    """A colour that a person keeps, read off a photograph or a picture; linear Rec.709."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    owner = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE)
    name = models.CharField(max_length=120)
    color = models.JSONField()
    kept_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-kept_at"]


def usual_sums_mb() -> int:
    return settings.MOST_SUMS_MB


class Quota(models.Model):
    """How much one person may keep, where it is not what everybody may."""

    owner = models.OneToOneField(settings.AUTH_USER_MODEL, models.CASCADE, primary_key=True, related_name="quota")
    documents = models.PositiveIntegerField(help_text="of each kind: materials, stages, modules, trials, pictures")
    file_mb = models.PositiveIntegerField("MB of files")
    sums_mb = models.PositiveIntegerField("MB of sums of pictures", default=usual_sums_mb)

    @property
    def file_bytes(self) -> int:
        return self.file_mb * 1_000_000

    def __str__(self) -> str:
        return f"{self.documents} documents of each kind, {self.file_mb} MB of files, {self.sums_mb} MB of sums"
