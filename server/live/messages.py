"""What the live picture's socket says both ways. The web's types are made from these, through the API's schema.

The renderer reads this as well, so nothing of Django is imported here; `consumers` has the one message that only the server sends.
"""

from typing import Annotated, Any, Literal, get_args

from nineglass.describe import Fault
from nineglass.documents.model import LARGEST_BYTES, Settings
from nineglass.documents.note import Note
from nineglass.trace.ray import RayStep
from pydantic import BaseModel, Field, TypeAdapter

Share = Annotated[float, Field(ge=0, le=1, strict=True)]
Pixels = Annotated[int, Field(ge=16, le=8192, strict=True)]
Sequence = Annotated[int, Field(ge=0, strict=True)]
Word = Annotated[str, Field(max_length=1000)]


class Show(BaseModel):
    """What is to be shown; the newest wins."""

    type: Literal["show"]
    sequence: Sequence
    material: dict[str, Any]
    stage: dict[str, Any]
    settings: dict[str, Any]
    inside: Word
    room: tuple[Pixels, Pixels] | None = None
    """How many pixels of the screen the picture may take, across and down."""
    part: tuple[Share, Share, Share, Share] | None = None
    """The part of the picture that alone is made: left, top, right, bottom, 0 to 1."""
    apart: bool = False
    """Whether lights are kept apart, so that they can be turned without making the picture again."""


class Shown(BaseModel):
    """A frame was drawn."""

    type: Literal["shown"]


class Keep(BaseModel):
    """A proof of the picture as it is."""

    type: Literal["keep"]
    request: Word


class AtPlace(BaseModel):
    """What is asked of a place of the picture: its light, the way of that light, what makes it sharp, or whose it is."""

    type: Literal["pick", "follow", "focus", "whose"]
    x: Share
    y: Share


class Look(BaseModel):
    """How the picture is looked at: smoothed while it settles, or as rendered; in its view, or as stops from mid grey."""

    type: Literal["look"]
    smoothed: bool
    stops: bool


class Unseen(BaseModel):
    """Whether nobody sees the picture: it gets no more samples until somebody does."""

    type: Literal["unseen"]
    unseen: bool


class Hold(BaseModel):
    """A slip to be held up on the form."""

    type: Literal["hold"]
    slip: Word


class BracketAsked(BaseModel):
    """A strip of pictures across a dial; without values the strip is left."""

    type: Literal["bracket"]
    module: Word
    part: Word
    dial: Word
    values: Annotated[list[Any], Field(max_length=64)]


class TrialAsked(BaseModel):
    """A trial of what is shown; without an axis the one under way is left."""

    type: Literal["trial"]
    run: Word
    """Its name among those of this bench, said again of every picture."""
    name: Annotated[str, Field(min_length=1, max_length=120)] = "Trial"
    across: dict[str, Any] | None = None
    down: dict[str, Any] | None = None
    before: Annotated[list[tuple[float, float, float]], Field(max_length=144)] | None = None
    """Mean colours of the pictures when it was made before, to tell what changed."""


class KeepTrial(BaseModel):
    """The trial under way is to be kept."""

    type: Literal["keep_trial"]
    request: Word


Asked = Show | Shown | Unseen | Keep | Look | AtPlace | Hold | BracketAsked | TrialAsked | KeepTrial
ASKED = TypeAdapter(Annotated[Asked, Field(discriminator="type")])
LONGEST_MESSAGE = 2 * LARGEST_BYTES


class Frame(BaseModel):
    """A picture, with its bytes behind it."""

    type: Literal["frame"] = "frame"
    samples: int
    noise: float | None
    """How far it is from what it will be: the root mean square error of the luminance that is seen, over its mean."""
    cut: float
    """The share of light that the limit of bounces cut."""
    seconds: float
    width: int
    height: int
    part: tuple[float, float, float, float] | None
    """The part of the picture that it is, where it is not the whole."""
    coarse: bool
    settled: bool
    smoothed: bool
    """Whether it was freed of noise for looking at."""
    lights: int = 0
    """That are kept apart; 0 where they are not."""
    nearly: bool = False
    """Whether one of them was given another colour after it was made, which three channels tell nearly, or switched off, and still hides what is
    behind it."""
    strands: tuple[int, int] | None = None
    """How many strands stand in it, of how many, where there are fewer than there will be in a moment."""
    mime: str


class SlipPicture(BaseModel):
    draws: Literal["curve", "strip", "patch", "value"]
    values: list[float] | None = None
    colors: list[str] | None = None
    png: str | None = None
    low: float
    high: float


class BandCut(BaseModel):
    """What a band of the section is drawn from."""

    colors: list[str]
    roughness: float
    says: str


class SectionCut(BaseModel):
    depth_cm: float
    cut: list[str]
    scatterings: float
    """Of light that goes straight down the depth, on average."""
    scattered: str
    """The colour of what is scattered."""
    bands: dict[str, BandCut]


class Span(BaseModel):
    label: str
    unit: str
    low: float
    high: float


class StripRow(BaseModel):
    label: str
    hex: list[str]


class Strips(BaseModel):
    """Rows of colour over one quantity."""

    x: Span
    rows: list[StripRow]
    mark: float
    caption: str
    varies: bool


class Lengths(BaseModel):
    low_cm: float
    middle_cm: float
    high_cm: float
    edges_cm: list[float]
    counts: list[float]


class Rungs(BaseModel):
    lengths_cm: list[float]
    hex: list[str]
    depth_cm: float
    varies: bool
    measured: Lengths | None


class CurvesX(BaseModel):
    label: str
    unit: str
    values: list[float]


class CurvesY(BaseModel):
    label: str
    low: float
    high: float


class CurveRow(BaseModel):
    label: str
    values: list[float]


class CurveMark(BaseModel):
    x: float
    label: str


class Curves(BaseModel):
    x: CurvesX
    y: CurvesY
    curves: list[CurveRow]
    marks: list[CurveMark]
    caption: str
    varies: bool


class RungsGauge(BaseModel):
    name: str
    title: str
    help: str
    plot: Literal["rungs"]
    computed: Rungs


class StripsGauge(BaseModel):
    name: str
    title: str
    help: str
    plot: Literal["strips"]
    computed: Strips


class CurvesGauge(BaseModel):
    name: str
    title: str
    help: str
    plot: Literal["curves"]
    computed: Curves


class Polar(BaseModel):
    """Shares of the largest, at even steps of the angle from straight on (0) to straight back (180 degrees)."""

    curves: list[CurveRow]
    caption: str


class PolarGauge(BaseModel):
    name: str
    title: str
    help: str
    plot: Literal["polar"]
    computed: Polar


class StrandLobe(BaseModel):
    """Light that one lobe sends on, in shares of its largest."""

    label: str
    along: list[float]
    """Over the inclination, `StrandPlot.along_deg`."""
    around: list[float]
    """At even steps of the azimuth from -180 to 180 degrees; 0 is back to where it came from."""


class StrandPlot(BaseModel):
    lobes: list[StrandLobe]
    along_deg: list[float]
    lit: list[str]
    """Colours across a lit strand."""
    caption: str
    varies: bool


class StrandGauge(BaseModel):
    name: str
    title: str
    help: str
    plot: Literal["lobes"]
    computed: StrandPlot


GaugeReading = Annotated[StrandGauge | PolarGauge | RungsGauge | StripsGauge | CurvesGauge, Field(discriminator="plot")]


class Outline(BaseModel):
    object: str
    part: str
    above: list[tuple[float, float]]
    front: list[tuple[float, float]]


class Strip(BaseModel):
    light: str
    camera: str


class Plan(BaseModel):
    """The stage from above and from the front, in cm about its middle."""

    outlines: list[Outline]
    floor_cm: float
    size_cm: float
    strips: Strip


class Arriving(BaseModel):
    low: float
    high: float


class Reading(BaseModel):
    type: Literal["reading"] = "reading"
    gauges: list[GaugeReading]
    notes: list[Note]
    inside: str
    """The use of a module whose slips `slips` are about."""
    slips: dict[str, SlipPicture]
    driven: dict[str, Arriving]
    section: SectionCut
    plan: Plan | None


class Picked(BaseModel):
    """What one place of the picture holds."""

    type: Literal["picked"] = "picked"
    x: float
    y: float
    linear: list[float]
    luminance: float
    display: str
    over: list[bool]
    wavelengths_nm: list[float]
    spectrum: list[float]
    seen: str
    noise: float | None


class FollowedRay(BaseModel):
    wavelength_nm: float
    left: float
    steps: list[RayStep]
    drawn: list[tuple[float, float] | None]


class Followed(BaseModel):
    """The way of light through one place of the picture, at several wavelengths when it disperses."""

    type: Literal["followed"] = "followed"
    x: float
    y: float
    rays: list[FollowedRay]


class Focused(BaseModel):
    type: Literal["focused"] = "focused"
    focus: float | None


class Whose(BaseModel):
    """Which part of which object is seen at a place of the picture; of no object where there is none."""

    type: Literal["whose"] = "whose"
    object: str | None
    part: str


class Held(BaseModel):
    """A slip held up: its picture is behind it."""

    type: Literal["held"] = "held"
    slip: str
    mime: str
    low: float
    high: float
    below: float
    above: float
    least: float
    most: float
    """What counts as within range."""
    seen: float


class Bracketed(BaseModel):
    """One picture of a strip, behind it."""

    type: Literal["bracketed"] = "bracketed"
    place: int
    readable: bool
    part: str
    dial: str
    value: Any
    noise: float


class Tried(BaseModel):
    """One picture of a trial, behind it."""

    type: Literal["tried"] = "tried"
    run: str
    place: int
    """Row by row."""
    readable: bool
    """Whether all can be judged; they go on getting better."""
    done: bool
    progress: float
    noise: float
    mean: tuple[float, float, float]
    """Linear colour of the middle, exposed."""
    changed: float | None
    """How far that is from what it was before: CIE DE2000."""


class FaultsFound(BaseModel):
    type: Literal["faults"] = "faults"
    faults: list[Fault]


class NotKept(BaseModel):
    """A wish for a proof that came to nothing."""

    type: Literal["not_kept"] = "not_kept"
    request: str
    says: str


class Restarted(BaseModel):
    type: Literal["restarted"] = "restarted"


class Preparing(BaseModel):
    """Kernels that are still being compiled; a stage that needs one of them waits."""

    type: Literal["preparing"] = "preparing"
    done: int
    of: int
    waits: bool
    """Whether this bench waits for one of them."""


SAID = {
    message.model_fields["type"].default: message
    for message in (
        Frame,
        Reading,
        Picked,
        Followed,
        Focused,
        Whose,
        Held,
        Bracketed,
        Tried,
        FaultsFound,
        NotKept,
        Restarted,
        Preparing,
    )
}
"""What the renderer and its keeper say, by its type."""

MESSAGES = (*SAID.values(), *get_args(Asked), Settings)
"""All of both ways, for the schema."""


class Turn(BaseModel):
    """To the keeper alone: for which bench and document the renderer works from now on."""

    type: Literal["turn"] = "turn"
    bench: str
    shows: int


class Beat(BaseModel):
    """To the keeper alone, every second: how long the step under way has taken, in s."""

    type: Literal["beat"] = "beat"
    seconds: float
