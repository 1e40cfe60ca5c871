"""Whether what is under way is still wanted: asked of the database, and so not at every step."""

import time
from collections.abc import Callable

ASKED_EVERY_S = 1.0


def now_and_then(is_so: Callable[[], bool]) -> Callable[[], bool]:
    """Asks at most once in `ASKED_EVERY_S`; False in between, and before the first time is due."""
    asked = time.monotonic()

    def asks() -> bool:
        nonlocal asked
        if time.monotonic() - asked < ASKED_EVERY_S:
            return False
        asked = time.monotonic()
        return is_so()

    return asks
