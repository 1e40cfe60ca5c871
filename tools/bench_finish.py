"""What a finish takes: every step, and the film-like view, of 1280 x 720, as when one of its dials is turned."""

import statistics
import time

SIZE, ROUNDS = (1280, 720), 12
STEPS = {
    "fringe": {"spread": 0.4},
    "bloom": {"amount": 0.1},
    "vignette": {"angle": 25},
    "exposure": {"stops": 0.3},
    "white": {"temperature": 5200},
    "curve": {"stops": [[0, 0], [0.5, 0.47], [1, 1]]},
    "grain": {"amount": 0.1},
}


def bench_finish() -> dict:
    import numpy as np
    from nineglass.documents.finish import read_finish
    from nineglass.finals.finished import finished
    from nineglass.finish import FINISHES
    from nineglass.picture.views import VIEWS

    assert set(STEPS) == set(FINISHES.kinds), "every step that there is"
    rgb = (np.random.default_rng(1).random((SIZE[1], SIZE[0], 3)) ** 6).astype(np.float32)
    spent = []
    for k in range(ROUNDS):
        turned = STEPS | {"exposure": {"stops": 0.1 * k}}
        finish = read_finish({"steps": [{"kind": kind, "dials": dials} for kind, dials in turned.items()]})
        began = time.perf_counter()
        VIEWS["film"](finished(rgb, finish), 0.0)
        spent.append(time.perf_counter() - began)
    return {"finish.frame_ms": 1000 * statistics.median(spent[2:])}
