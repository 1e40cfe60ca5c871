"""How a final picture is to be made."""

from typing import Annotated, Literal

from pydantic import Field, model_validator

from nineglass.documents.model import Versioned

LARGEST_SIDE = 8192
MOST_SAMPLES = 1_000_000


class Final(Versioned):
    """Size, how far it goes, and what is kept apart. Whatever of noise, time and samples is met first ends it; none of them: until it is stopped."""

    format: Literal["nineglass.final"] = "nineglass.final"
    version: Literal[1] = 1
    width: Annotated[int, Field(ge=16, le=LARGEST_SIDE)] = 1280
    height: Annotated[int, Field(ge=16, le=LARGEST_SIDE)] = 720
    noise: Annotated[float, Field(ge=0.001, le=1)] | None = 0.02
    """Of the picture as it is handed out, as `picture.noise` tells it."""
    minutes: Annotated[float, Field(gt=0, le=100_000)] | None = None
    samples: Annotated[int, Field(ge=1, le=MOST_SAMPLES)] | None = None
    """Of each pixel."""
    most_bounces: Annotated[int, Field(ge=1, le=1024)] = 128
    most_matt: Annotated[int, Field(ge=1, le=255)] | None = None
    """How often light may meet something matt; as often as it does when not given."""
    most_within: Annotated[int, Field(ge=1, le=127)] | None = None
    """How often it may be scattered in the midst of matter, each time that it went in."""
    smoothed: bool = True
    """Whether the noise that is left is taken out at the end."""
    half: bool = False
    """Whether colours are handed out in half precision, which holds 0.05 % and light up to 65504."""
    on_floor: bool = False
    """Whether what the forms take from the light of the floor, and what they throw onto it, is handed out by itself."""
    by_light: bool = False
    """Whether each lamp, the surround and what glows are kept apart."""
    seed: Annotated[int, Field(ge=1, le=2**31 - 1)] = 1

    @model_validator(mode="after")
    def _at_most_so_many_pixels(self):
        if self.by_light and self.width * self.height > 4096 * 4096:
            raise ValueError("light by light at most 16 million pixels")
        return self
