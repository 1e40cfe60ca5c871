"""What can be done with trials. Every function takes the person; nobody reaches what is neither theirs nor shared with them."""

from uuid import UUID

from django.shortcuts import get_object_or_404
from library.access import COMMENT, LOOK, OWN, held, includes, reached
from library.checks import check_files, leave_room
from library.kept_pictures import keep_picture
from materials.models import Material
from nineglass.describe import Fault, Refused
from nineglass.documents import trials as documents
from nineglass.trials.swatches import Solved, Swatch, solve

from trials.models import Trial


def keep(person, material_id: UUID, trial: documents.Trial, picture: bytes, means: list, noise: list) -> Trial:
    """Keep a trial with its pictures on one sheet (PNG), stored once by its content."""
    material = held(Material, person, material_id, COMMENT)
    leave_room(material.owner, Trial)
    check_files(person, trial.material, trial.stage)
    about = {"name": trial.name, "document": trial.model_dump(mode="json"), "means": means, "noise": noise}
    return Trial.objects.create(
        owner=material.owner, material=material, picture=keep_picture("trials", picture), **about
    )


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


def solved_slabs(thin: Swatch, thick: Swatch, through: Swatch, index: float, ground: str) -> dict:
    """ground: the name of what lies behind the two that are lit from before. Raises Refused."""
    from nineglass.trials.slabs import GROUNDS, solve_in_child

    return solve_in_child([thin, thick, through], index, GROUNDS[ground])


def on_the_shelf(person, material_id: UUID) -> list[Trial]:
    """The trials of a material that a person has or was shared with, and those that were shared by themselves; each with `may`."""
    material = reached(Material, person).filter(id=material_id).first()
    of = list(material.trials.select_related("owner")) if material else []
    for trial in of:
        trial.may = material.may
    alone = reached(Trial, person).exclude(owner=person).exclude(id__in=[trial.id for trial in of])
    return [*of, *alone.select_related("owner")]


def get(person, trial_id: UUID, needed: str = LOOK) -> Trial:
    """One that was shared, or whose material is the person's or was. Raises Refused when more is needed than they may."""
    trial = get_object_or_404(Trial, id=trial_id)
    material = reached(Material, person).filter(id=trial.material_id).first()
    return trial if material and includes(material.may, needed) else held(Trial, person, trial_id, needed)


def remove(person, trial_id: UUID) -> None:
    get(person, trial_id, OWN).delete()
