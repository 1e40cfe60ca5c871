"""What can be done with trials. Every function takes the owner; nobody reaches what is not theirs."""

from uuid import UUID

from django.shortcuts import get_object_or_404
from library.checks import leave_room
from library.kept_pictures import keep_picture
from materials.models import Material
from nineglass.describe import Fault, Refused
from nineglass.documents import trials as documents
from nineglass.trials.slabs import GROUNDS, SolvedSlabs, solve_slabs
from nineglass.trials.swatches import Solved, Swatch, solve

from trials.models import Trial


def keep(owner, material_id: UUID, trial: documents.Trial, picture: bytes, means: list, noise: list) -> Trial:
    """Keep a trial with its pictures on one sheet (PNG), stored once by its content."""
    leave_room(owner, Trial)
    material = get_object_or_404(Material, owner=owner, id=material_id)
    about = {"name": trial.name, "document": trial.model_dump(mode="json"), "means": means, "noise": noise}
    return Trial.objects.create(owner=owner, material=material, picture=keep_picture("trials", picture), **about)


def cell(trial: documents.Trial, row: int, column: int) -> tuple:
    """The documents of one picture. Raises Refused."""
    if row >= trial.rows or column >= trial.columns:
        allowed = f"{trial.rows} rows, {trial.columns} columns"
        raise Refused([Fault("row", "the trial has no such picture", allowed, "Choose another.")])
    return trial.cell(row, column)


def solved(first: Swatch, second: Swatch) -> Solved:
    """Raises Refused when both are of one depth."""
    if abs(first.depth - second.depth) < 0.01 * max(first.depth, second.depth):
        allowed = "two depths that differ"
        raise Refused([Fault("second.depth", "both swatches are of one depth", allowed, "Set another depth.")])
    return solve(first, second)


def solved_slabs(thin: Swatch, thick: Swatch, through: Swatch, index: float, ground: str) -> SolvedSlabs:
    """ground: the name of what lies behind the two that are lit from before."""
    return solve_slabs(thin, thick, through, index, GROUNDS[ground])


def get(owner, trial_id: UUID) -> Trial:
    return get_object_or_404(Trial, owner=owner, id=trial_id)


def remove(owner, trial_id: UUID) -> None:
    get(owner, trial_id).delete()
