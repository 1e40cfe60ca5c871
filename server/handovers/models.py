import uuid

from django.conf import settings
from django.db import models
from materials.models import Material


class HandedOver(models.Model):
    """A material as it was written in another format, with its report; it is read back and measured behind. Never changed after that."""

    class State(models.TextChoices):
        MEASURING = "measuring"
        DONE = "done"
        FAILED = "failed"

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    owner = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE)
    taken_from = models.ForeignKey(Material, models.SET_NULL, null=True, related_name="+")
    name = models.CharField(max_length=120)
    format = models.CharField(max_length=20)
    made_at = models.DateTimeField(auto_now_add=True)
    material = models.JSONField()
    stage = models.JSONField()
    report = models.JSONField()
    read_back = models.JSONField(null=True)
    """The material that was found in it."""
    read_report = models.JSONField(null=True)
    """What became of it when it was read back."""
    file = models.FileField()
    file_name = models.CharField(max_length=140)
    bytes = models.PositiveBigIntegerField()
    state = models.CharField(max_length=10, choices=State, default=State.MEASURING)
    says = models.TextField(default="")

    class Meta:
        ordering = ["-made_at"]


class Measured(models.Model):
    """How far apart the original and what was read back look, on one stage."""

    handed = models.ForeignKey(HandedOver, models.CASCADE, related_name="measured")
    number = models.PositiveIntegerField()
    stage = models.CharField(max_length=120)
    delta_e = models.FloatField()
    worst = models.FloatField()
    noise = models.FloatField()
    picture = models.FileField()
    """The original, what was read back, and how far they are apart, side by side."""

    class Meta:
        ordering = ["number"]
        constraints = [models.UniqueConstraint(fields=["handed", "number"], name="one_measure_a_stage")]


class TakenIn(models.Model):
    """Where a material came from that was read of a file, and what became of it."""

    material = models.OneToOneField(Material, models.CASCADE, related_name="taken_in")
    file_name = models.CharField(max_length=200)
    report = models.JSONField()
    made_at = models.DateTimeField(auto_now_add=True)
