"""What is done to pictures after the light, as a document of its own: several pictures may share one."""

from typing import Annotated, Literal

from pydantic import Field

from nineglass.describe import Fault, Refused
from nineglass.documents.model import Name, Part, Versioned, read
from nineglass.documents.shown import View
from nineglass.finish import FINISHES


class FinishStep(Part):
    """One step with its dials."""

    on: bool = True


class Finish(Versioned):
    """Steps, done in the order of their kinds, each once; and the view that the picture is then shown in."""

    format: Literal["nineglass.finish"] = "nineglass.finish"
    version: Literal[1] = 1
    name: Name = "Finish"
    steps: Annotated[list[FinishStep], Field(max_length=16)] = []
    view: View | None = None
    """As the stage says when not given."""


def read_finish(given: Finish | dict | str) -> Finish:
    """A checked finish. Raises Refused with every fault found."""
    finish = given if isinstance(given, Finish) else read(Finish, given)
    faults = [
        fault
        for i, step in enumerate(finish.steps)
        for fault in FINISHES.faults_of(f"steps[{i}]", step.kind, step.dials)
    ]
    kinds = [step.kind for step in finish.steps]
    faults += [
        Fault(f"steps[{i}].kind", f"{kind!r} is there twice", "each step once", "Remove one.")
        for i, kind in enumerate(kinds)
        if kind in kinds[:i]
    ]
    if faults:
        raise Refused(faults)
    return finish
