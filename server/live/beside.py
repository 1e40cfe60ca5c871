"""Work beside the picture, on a thread of its own."""

import logging
import threading
from collections.abc import Callable

log = logging.getLogger(__name__)

LOOKS_EVERY_S = 0.05


class Beside:
    """Does the newest wish of each bench, one after another; wishes that were overtaken are left out."""

    def __init__(self, name: str, act: Callable[..., None], has_to_wait: Callable[[], bool] = lambda: False):
        """act(session, *wish) does one. has_to_wait: whether nothing may be begun now."""
        self._act, self._has_to_wait = act, has_to_wait
        self._wanted: dict[str, tuple] = {}
        self._wake = threading.Condition()
        threading.Thread(target=self._work, daemon=True, name=name).start()

    def ask(self, session: str, *wish) -> None:
        with self._wake:
            self._wanted[session] = wish
            self._wake.notify()

    def _work(self) -> None:
        while True:
            with self._wake:
                while not self._wanted or self._has_to_wait():
                    self._wake.wait(LOOKS_EVERY_S if self._wanted else None)
                session = next(iter(self._wanted))
                wish = self._wanted.pop(session)
            try:
                self._act(session, *wish)
            except Exception:
                log.exception("%s: a wish of a bench failed", threading.current_thread().name)
