"""A picture with its finish."""

import sys
from pathlib import Path

import numpy as np

from nineglass.child import Kind, say
from nineglass.documents.finish import Finish, read_finish
from nineglass.finish import FINISHES
from nineglass.picture.files import read_picture, write_exr

FINISHING = Kind("finishing it", "a smaller picture", path="finish")


def finished(rgb: np.ndarray, finish: Finish | None, frame: int = 0) -> np.ndarray:
    """(h, w, 3) linear, with every step that is on; as it is where there is no finish. frame: its number, where it is one of several."""
    steps = {step.kind: step for step in (finish.steps if finish else []) if step.on}
    if not steps:
        return rgb
    planes = np.ascontiguousarray(np.moveaxis(rgb, -1, 0), np.float32)
    for name, kind in FINISHES.kinds.items():
        if name in steps:
            planes = kind.make().apply(planes, kind.defaults() | steps[name].dials, frame)
    return np.ascontiguousarray(np.moveaxis(planes, 0, -1))


def write_finished(out: Path, exr: Path, finish: Finish, frame: int = 0) -> None:
    """A file of a final picture with its finish as linear light, in a process of its own. Raises Refused."""
    FINISHING.answer_of(__name__, str(out), str(exr), str(frame), given=finish.model_dump_json().encode())


def main(out: str, exr: str, frame: str) -> dict:
    """In the child."""
    finish = read_finish(sys.stdin.read())
    rgb, alpha, facts = read_picture(Path(exr))
    write_exr(Path(out), finished(rgb, finish, int(frame)), facts | {"finish": finish.model_dump(mode="json")}, alpha)
    return {}


if __name__ == "__main__":
    say(lambda: main(*sys.argv[1:]), "finish")
