import uuid

from django.conf import settings
from django.db import models


class Material(models.Model):
    """A material of one person; `document` is its newest revision."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    owner = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE)
    name = models.CharField(max_length=120)
    revision = models.PositiveIntegerField(default=1)
    document = models.JSONField()
    saved_at = models.DateTimeField(auto_now=True)
    tags = models.JSONField(default=list)
    family = models.CharField(max_length=20, default="")
    made_of = models.JSONField(default=list)
    likeness = models.CharField(max_length=64, default="")
    """The same for materials of the same matter, whatever they are called."""
    picture = models.FileField(default="", blank=True)
    """Of the material by itself, for shelves."""
    pictured = models.PositiveIntegerField(default=0)
    """The revision that the picture shows; it is made anew when there is a newer one."""
    color = models.JSONField(default=list)
    """Words for the colour of the picture."""
    deleted_at = models.DateTimeField(null=True)
    """When it was put away; it can be brought back for a while."""

    class Meta:
        ordering = ["name", "id"]


class Revision(models.Model):
    """Every saved state of a material; never changed."""

    material = models.ForeignKey(Material, models.CASCADE, related_name="revisions")
    number = models.PositiveIntegerField()
    document = models.JSONField()
    saved_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["material", "number"], name="one_revision_a_number")]
        ordering = ["-number"]


class Immutable(Exception):
    """A proof is never changed."""


class Proof(models.Model):
    """A kept state of a material on its stage, with its picture."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    owner = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE)
    material = models.ForeignKey(Material, models.CASCADE, related_name="proofs")
    number = models.PositiveIntegerField()
    document = models.JSONField()
    stage = models.JSONField()
    picture = models.FileField()
    samples = models.PositiveIntegerField()
    noise = models.FloatField(null=True)
    made_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["material", "number"], name="one_proof_a_number")]
        ordering = ["number"]

    def save(self, *args, **kwargs):
        if not self._state.adding:
            raise Immutable("A proof is never changed.")
        super().save(*args, **kwargs)
