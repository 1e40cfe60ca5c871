import uuid

from django.conf import settings
from django.db import models
from materials.models import Material


class KeptFinish(models.Model):
    """What is done to pictures after the light; all pictures that wear it follow."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    owner = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE)
    document = models.JSONField()
    revision = models.PositiveIntegerField(default=1)
    made_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["made_at"]


class FinalPicture(models.Model):
    """A picture that is being made, or a series of them, with the documents that it is of: they are never changed."""

    class State(models.TextChoices):
        UNDER_WAY = "under way"
        PAUSED = "paused"
        DONE = "done"
        FAILED = "failed"

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    owner = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE)
    taken_from = models.ForeignKey(Material, models.SET_NULL, null=True, related_name="+")
    """Where the material is kept, as long as it is."""
    name = models.CharField(max_length=120)
    material = models.JSONField()
    stage = models.JSONField()
    final = models.JSONField()
    series = models.JSONField(null=True)
    """What changes from frame to frame, where it is a series: see `documents.motion`."""
    finish = models.ForeignKey(KeptFinish, models.SET_NULL, null=True, related_name="pictures")
    state = models.CharField(max_length=10, choices=State, default=State.UNDER_WAY)
    place = models.BigIntegerField(default=0)
    """In the queue; the lowest is made first."""
    made_at = models.DateTimeField(auto_now_add=True)
    resumed_at = models.DateTimeField(null=True)
    """Since when it is under way this time."""
    spent_s = models.FloatField(default=0)
    """How long it was under way before."""
    lights = models.JSONField(default=list)
    """Id and name of what is made by itself, and the error of one sample of it, as far as that is known."""
    gains = models.JSONField(default=dict)
    """By how much a light is turned after it was made, [r, g, b] by its id; as it was made when not given."""
    exposure = models.FloatField(default=0)
    noise = models.FloatField(null=True)
    cut = models.JSONField(default=list)
    """The share of light that each limit takes away: of bounces, of matt ones, of scattering in matter."""
    says = models.TextField(default="")
    preview = models.FileField(default="", blank=True)
    by_light = models.FileField(default="", blank=True)
    """Each light by itself, small and smoothed, to be turned at once."""
    looked_at = models.DateTimeField(null=True)
    look_s = models.FloatField(default=0)
    sums_bytes = models.PositiveBigIntegerField(default=0)
    """What its sums take at the most."""
    exr = models.FileField(default="", blank=True)
    png = models.FileField(default="", blank=True)
    video = models.FileField(default="", blank=True)

    class Meta:
        ordering = ["place", "made_at"]


class Frame(models.Model):
    """One picture of a series, as far as it is."""

    picture = models.ForeignKey(FinalPicture, models.CASCADE, related_name="frames")
    number = models.PositiveIntegerField()
    look_at = models.PositiveIntegerField()
    """Samples at which it is looked at next."""
    noise = models.FloatField(null=True)
    is_done = models.BooleanField(default=False)
    mean = models.JSONField(null=True)
    """Linear colour of its middle, exposed."""
    preview = models.FileField(default="", blank=True)
    exr = models.FileField(default="", blank=True)
    png = models.FileField(default="", blank=True)

    class Meta:
        ordering = ["number"]
        constraints = [models.UniqueConstraint(fields=["picture", "number"], name="one_frame_once")]


class Piece(models.Model):
    """One tile of one light of a frame: the sums of its chunks, merged in their order. A picture that is no series is frame 0."""

    picture = models.ForeignKey(FinalPicture, models.CASCADE, related_name="pieces")
    frame = models.PositiveIntegerField(default=0)
    light = models.PositiveIntegerField()
    tile = models.PositiveIntegerField()
    merged = models.PositiveIntegerField(default=0)
    """How many chunks are in the sums: those before this number, each once."""
    samples = models.PositiveIntegerField(default=0)
    sums = models.FileField(default="", blank=True)

    class Meta:
        ordering = ["frame", "light", "tile"]
        constraints = [models.UniqueConstraint(fields=["picture", "frame", "light", "tile"], name="one_piece_once")]


class Chunk(models.Model):
    """A chunk of a piece that is to be made, is being made, or waits for those before it to be merged."""

    piece = models.ForeignKey(Piece, models.CASCADE, related_name="chunks")
    number = models.PositiveIntegerField()
    attempt = models.PositiveIntegerField(default=0)
    """How often it was taken; only what the last one made counts."""
    given_back = models.PositiveIntegerField(default=0)
    """How often of these it was given back, as the picture was not wanted for a while."""
    sums = models.FileField(default="", blank=True)
    """When it is made, until it is merged."""

    class Meta:
        constraints = [models.UniqueConstraint(fields=["piece", "number"], name="one_chunk_once")]
