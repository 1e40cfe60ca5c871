import uuid

from django.conf import settings
from django.db import models
from django.db.models import Q
from library.access import CHANGE, COMMENT, LOOK

SHARED = ("material", "stage", "trial")
"""What can be shared; one of them is what a share is about."""


def _is_about_one() -> Q:
    ways = [Q(**{f"{name}__isnull": name != one for name in SHARED}) for one in SHARED]
    return ways[0] | ways[1] | ways[2]


class Share(models.Model):
    """What a person may do with something of somebody else's."""

    class May(models.TextChoices):
        LOOK = LOOK, "look"
        COMMENT = COMMENT, "comment"
        CHANGE = CHANGE, "change"

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    material = models.ForeignKey("materials.Material", models.CASCADE, null=True, related_name="shares")
    stage = models.ForeignKey("stages.Stage", models.CASCADE, null=True, related_name="shares")
    trial = models.ForeignKey("trials.Trial", models.CASCADE, null=True, related_name="shares")
    person = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE)
    may = models.CharField(max_length=8, choices=May)
    since = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["person__username"]
        constraints = [
            models.CheckConstraint(condition=_is_about_one(), name="about_one_thing"),
            *(models.UniqueConstraint(fields=[one, "person"], name=f"one_share_a_{one}") for one in SHARED),
        ]

    @property
    def kind(self) -> str:
        return next(name for name in SHARED if getattr(self, f"{name}_id"))

    @property
    def of(self):
        """The material, stage or trial."""
        return getattr(self, self.kind)


class Comment(models.Model):
    """What somebody says of a proof, at a place of its picture or of the whole."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    proof = models.ForeignKey("materials.Proof", models.CASCADE, related_name="comments")
    author = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True)
    """None when there is no such person any more: what was said stays."""
    says = models.CharField(max_length=2000)
    x = models.FloatField(null=True)
    y = models.FloatField(null=True)
    """The place: 0 to 1 from the left and from the top."""
    made_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["made_at"]


class Presence(models.Model):
    """When a person was last seen at a material."""

    material = models.ForeignKey("materials.Material", models.CASCADE, related_name="+")
    person = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE)
    seen_at = models.DateTimeField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["material", "person"], name="one_presence_a_person")]
