import uuid

from django.conf import settings
from django.db import models


class Scan(models.Model):
    """One run of a device: what it has read so far follows from the time that has gone by."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    owner = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE)
    device = models.CharField(max_length=40)
    dials = models.JSONField()
    seed = models.PositiveIntegerField()
    began_at = models.DateTimeField(auto_now_add=True)
    stopped_at = models.DateTimeField(null=True)
    """When it was broken off; what was read until then is kept."""

    class Meta:
        ordering = ["-began_at"]
