"""What threads of the renderer count and collect together: one hears of it while another works it off."""

import threading
from collections import deque


class InFlight:
    """How many frames were sent that the browser has not shown yet."""

    def __init__(self):
        self.count = 0
        self._lock = threading.Lock()

    def sent(self) -> None:
        with self._lock:
            self.count += 1

    def shown(self) -> None:
        with self._lock:
            self.count = max(0, self.count - 1)


class Wishes(deque):
    """What was asked for and is still owed."""

    def taken(self) -> list[str]:
        """All of them, each once; what comes meanwhile is among them or waits for the next time."""
        return [self.popleft() for _ in range(len(self))]
