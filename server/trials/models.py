import uuid

from django.conf import settings
from django.db import models
from materials.models import Material


class Trial(models.Model):
    """A kept trial of a material: `document` is what was tried, with its material and stage; `picture` its pictures on one sheet."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    owner = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE)
    material = models.ForeignKey(Material, models.CASCADE, related_name="trials")
    name = models.CharField(max_length=120)
    document = models.JSONField()
    means = models.JSONField()
    noise = models.JSONField()
    picture = models.FileField()
    made_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-made_at"]

    @property
    def across(self) -> dict:
        return self.document["across"]

    @property
    def down(self) -> dict | None:
        return self.document["down"]
