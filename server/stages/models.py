import uuid

from django.conf import settings
from django.db import models


class Stage(models.Model):
    """A stage of one person. A save on an outdated revision is refused."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    owner = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE)
    name = models.CharField(max_length=120)
    revision = models.PositiveIntegerField(default=1)
    document = models.JSONField()
    picture = models.FileField(default="", blank=True)
    """Of the stage with what stood on it last, for shelves."""
    pictured = models.PositiveIntegerField(default=0)
    """The revision that the picture shows."""

    class Meta:
        ordering = ["name", "id"]


class StageRevision(models.Model):
    """A stage as it was saved, for what is saved on top of it by somebody else; the last ones are kept."""

    stage = models.ForeignKey(Stage, models.CASCADE, related_name="revisions")
    number = models.PositiveIntegerField()
    document = models.JSONField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["stage", "number"], name="one_stage_revision_once")]


class Standing(models.Model):
    """On which stage a material stood last for a person: where their Bench opens it."""

    person = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE, related_name="+")
    material = models.ForeignKey("materials.Material", models.CASCADE, related_name="+")
    stage = models.ForeignKey(Stage, models.CASCADE, related_name="+")

    class Meta:
        constraints = [models.UniqueConstraint(fields=["person", "material"], name="one_standing_a_person")]
