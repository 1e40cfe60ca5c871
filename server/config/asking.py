"""Whether what is under way is still wanted: asked of the database, and so not at every step."""

import time
from collections.abc import Callable

ASKED_EVERY_S = 1.0


def now_and_then(is_so: Callable[[], bool], every_s: float = ASKED_EVERY_S) -> Callable[[], bool]:
    """Asks at most so often; False in between, and before the first time is due."""
    asked = time.monotonic()

    def asks() -> bool:
        nonlocal asked
        if time.monotonic() - asked < every_s:
            return False
        asked = time.monotonic()
        return is_so()

    return asks
