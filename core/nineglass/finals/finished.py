"""A picture with its finish."""

import numpy as np

from nineglass.documents.finish import Finish
from nineglass.finish import FINISHES


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
