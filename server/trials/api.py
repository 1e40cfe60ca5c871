from datetime import datetime
from typing import Annotated, Any, Literal
from uuid import UUID

from library.api import FaultsOut, Owned
from nineglass.documents import model as documents
from nineglass.documents import trials as documents_of_trials
from nineglass.documents.absorbing import BAND
from nineglass.documents.trials import Axis, DialAxis
from nineglass.spectra.difference import delta_e_of, how_apart
from nineglass.trials.ready import ready_for
from nineglass.trials.swatches import Swatch
from ninja import Router, Schema
from pydantic import Field

from trials import services
from trials.models import Trial

router = Router(tags=["trials"])
Share = Annotated[float, Field(ge=0, le=1)]


class TrialOut(Owned):
    """A kept trial: its axes, and the mean colour and noise of each picture, row by row."""

    id: UUID
    name: str
    made_at: datetime
    across: Axis
    down: Axis | None
    means: list[tuple[float, float, float]]
    noise: list[float]
    picture: str
    table: str

    @staticmethod
    def resolve_picture(trial: Trial) -> str:
        return f"/trials/{trial.id}/sheet.png"

    @staticmethod
    def resolve_table(trial: Trial) -> str:
        return f"/trials/{trial.id}/table.csv"


class ReadyIn(Schema):
    material: documents.Material


class ReadyOut(Schema):
    """A sheet that is ready to be made of a material."""

    name: str
    across: Axis
    down: DialAxis | None
    """None where the person's stages go down."""


@router.get("", response=list[TrialOut])
def trials(request, material_id: UUID):
    return services.on_the_shelf(request.user, material_id)


@router.post("ready", response=list[ReadyOut])
def ready(request, payload: ReadyIn):
    """The sheets that people always try, as far as a material has the dials for them; at the end, whether it stands up."""
    sheets = [{"name": name, "across": across, "down": down} for name, across, down in ready_for(payload.material)]
    return [*sheets, {"name": "Stands up?", "across": documents_of_trials.StandsUpAxis(), "down": None}]


class CellIn(Schema):
    """Where in a trial one picture is."""

    trial: documents_of_trials.Trial
    row: int = Field(ge=0, le=11)
    column: int = Field(ge=0, le=11)


class CellOut(Schema):
    material: documents.Material
    stage: documents.Stage


@router.post("cell", response={200: CellOut, 422: FaultsOut})
def cell(request, payload: CellIn):
    """The material and the stage of one picture, to go on with."""
    material, stage = services.cell(payload.trial, payload.row, payload.column)
    return 200, {"material": material, "stage": stage}


class SwatchIn(Schema):
    """A linear colour of white light after a depth in cm."""

    color: tuple[Share, Share, Share]
    depth: float = Field(gt=0.0005, le=10000)


class SwatchesIn(Schema):
    first: SwatchIn
    second: SwatchIn


class SolvedOut(Schema):
    """Matter that was looked for of swatches; of each what it comes out as, and how far that is (CIE DE2000)."""

    band: str = BAND
    """The kind of band that it goes into, with these dials."""
    dials: dict[str, Any]
    colors: list[tuple[float, float, float]]
    differences: list[float]
    says: list[str]


@router.post("solve", response={200: SolvedOut, 422: FaultsOut})
def solve_swatches(request, payload: SwatchesIn):
    """What absorbs so that a thin way has one colour and a thick one another."""
    return 200, services.solved(*(Swatch(one.color, one.depth) for one in (payload.first, payload.second)))


class SlabsIn(Schema):
    """What slabs of scattering matter look like under white light: two lit from before, the third from behind."""

    thin: SwatchIn
    thick: SwatchIn
    through: SwatchIn
    index: float = Field(1.45, ge=1, le=4)
    """Of refraction, of the matter."""
    ground: Literal["dark", "white"] = "dark"
    """What lies behind the two."""


@router.post("solve-slabs", response={200: SolvedOut, 422: FaultsOut})
def solve_slabs(request, payload: SlabsIn):
    """What absorbs and scatters so that slabs, thin, thick and lit through, have three colours."""
    given = (Swatch(one.color, one.depth) for one in (payload.thin, payload.thick, payload.through))
    return 200, services.solved_slabs(*given, payload.index, payload.ground)


Linear = Annotated[float, Field(ge=-1e6, le=1e6)]


class PairIn(Schema):
    """Two linear colours."""

    first: tuple[Linear, Linear, Linear]
    second: tuple[Linear, Linear, Linear]


class PairsIn(Schema):
    pairs: list[PairIn] = Field(max_length=64)


class DifferenceOut(Schema):
    delta_e: float
    """CIE DE2000."""
    says: str
    """What the first has to the second."""


@router.post("differences", response=list[DifferenceOut])
def differences(request, payload: PairsIn):
    """How far pairs of colours are apart."""
    return [
        {"delta_e": delta_e_of(one.first, one.second), "says": how_apart(one.first, one.second)}
        for one in payload.pairs
    ]


@router.delete("{uuid:trial_id}", response={204: None})
def remove(request, trial_id: UUID):
    services.remove(request.user, trial_id)
    return 204, None
