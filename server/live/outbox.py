"""What waits to be sent to one browser: bounded, so that one that does not read holds up nobody."""

import asyncio
import logging
from collections import deque
from collections.abc import Awaitable, Callable

log = logging.getLogger(__name__)

Hear = Callable[[dict, bytes], Awaitable[None]]

MOST_WAITING = 64
PATIENCE_S = 20.0
"""How long one message may take to be sent."""


class Outbox:
    """Sends messages in their order; of frames that wait only the newest is kept."""

    def __init__(self, hear: Hear, give_up: Callable[[], Awaitable[None]], dropped: Callable[[], Awaitable[None]]):
        """hear: sends one message. give_up: called once when the browser is too slow. dropped: called for each frame that is not sent."""
        self._hear, self._give_up, self._dropped = hear, give_up, dropped
        self._waiting: deque[tuple[dict, bytes]] = deque()
        self._wake = asyncio.Event()
        self._task = asyncio.create_task(self._send())
        self._giving_up: asyncio.Task | None = None

    async def put(self, header: dict, payload: bytes) -> None:
        if header["type"] == "frame":
            await self._drop_frames()
        self._waiting.append((header, payload))
        self._wake.set()
        if len(self._waiting) > MOST_WAITING:
            self._end("does not read")

    def close(self) -> None:
        self._task.cancel()

    async def _drop_frames(self) -> None:
        """What is put or sent while that is told stands in what waits already."""
        kept = [one for one in self._waiting if one[0]["type"] != "frame"]
        dropped, self._waiting = len(self._waiting) - len(kept), deque(kept)
        for _ in range(dropped):
            await self._dropped()

    async def _send(self) -> None:
        while True:
            while self._waiting:
                await self._safely(*self._waiting.popleft())
            self._wake.clear()
            await self._wake.wait()

    async def _safely(self, header: dict, payload: bytes) -> None:
        try:
            await asyncio.wait_for(self._hear(header, payload), PATIENCE_S)
        except TimeoutError:
            self._end("is too slow")
        except OSError:
            log.info("a bench closed while it was told something")
        except Exception:
            log.exception("a bench could not be told")

    def _end(self, why: str) -> None:
        self._waiting.clear()
        if self._giving_up is None:
            log.warning("a browser %s; its bench is closed", why)
            self._giving_up = asyncio.create_task(self._give_up())
