"""Keeps one rendering process alive, and carries messages between it and the open benches."""

import asyncio
import json
import logging
import os
import sys
import uuid
from collections.abc import Awaitable, Callable

from django.conf import settings

from live.wire import LENGTHS, pack

log = logging.getLogger(__name__)

Hear = Callable[[dict, bytes], Awaitable[None]]
LONGEST_PAUSE_S = 5.0


class Supervisor:
    """One for each server process; the rendering process starts with the first bench and stops with the last."""

    def __init__(self):
        self.hearers: dict[str, Hear] = {}
        self.shown: dict[str, dict] = {}
        self.process: asyncio.subprocess.Process | None = None
        self._keeper: asyncio.Task | None = None
        self._lock = asyncio.Lock()

    async def open(self, hear: Hear) -> str:
        """Join: `hear` gets every message for the new session. Returns the session's name."""
        session = uuid.uuid4().hex
        self.hearers[session] = hear
        async with self._lock:
            if self._keeper is None or self._keeper.done():
                self._keeper = asyncio.create_task(self._keep())
        return session

    async def close(self, session: str) -> None:
        self.hearers.pop(session, None)
        self.shown.pop(session, None)
        await self._tell({"type": "close", "session": session})
        async with self._lock:
            if not self.hearers and self._keeper:
                self._keeper.cancel()
                await asyncio.gather(self._keeper, return_exceptions=True)
                self._keeper = None

    async def say(self, session: str, message: dict) -> None:
        """Pass a bench's message on; what it shows is kept, to be said again to a new process."""
        message = {**message, "session": session}
        if message["type"] == "show":
            self.shown[session] = message
        await self._tell(message)

    async def _tell(self, message: dict) -> None:
        if self.process is None or self.process.stdin.is_closing():
            return
        try:
            self.process.stdin.write(pack(message))
            await self.process.stdin.drain()
        except (ConnectionError, RuntimeError):
            log.info("the renderer is gone; what is shown will be said again")

    async def _keep(self) -> None:
        pause = 0.2
        while True:
            began = asyncio.get_running_loop().time()
            await self._start()
            try:
                await self._hear()
            finally:
                await self._stop()
            log.warning("the renderer ended; starting it again")
            await self._to_all({"type": "restarted"})
            lived = asyncio.get_running_loop().time() - began
            pause = 0.2 if lived > 10 else min(pause * 2, LONGEST_PAUSE_S)
            await asyncio.sleep(pause)

    async def _start(self) -> None:
        environment = {**os.environ, "PYTHONPATH": os.pathsep.join(path for path in sys.path if path)}
        self.process = await asyncio.create_subprocess_exec(
            sys.executable,
            "-m",
            "live.renderer",
            cwd=settings.BASE_DIR,
            env=environment,
            stdin=asyncio.subprocess.PIPE,
            stdout=asyncio.subprocess.PIPE,
        )
        for message in list(self.shown.values()):
            await self._tell(message)

    async def _stop(self) -> None:
        process, self.process = self.process, None
        if process and process.returncode is None:
            process.kill()
            await process.wait()

    async def _hear(self) -> None:
        read = self.process.stdout.readexactly
        while True:
            try:
                size, extra = LENGTHS.unpack(await read(LENGTHS.size))
                header, payload = json.loads(await read(size)), await read(extra)
            except (asyncio.IncompleteReadError, ConnectionError):
                return
            hear = self.hearers.get(header.pop("session"))
            if hear:
                await self._safely(hear, header, payload)

    async def _to_all(self, header: dict) -> None:
        for hear in list(self.hearers.values()):
            await self._safely(hear, header, b"")

    @staticmethod
    async def _safely(hear: Hear, header: dict, payload: bytes) -> None:
        try:
            await hear(header, payload)
        except OSError:
            log.info("a bench closed while it was told something")
        except Exception:
            log.exception("a bench could not be told")


_supervisors: dict[asyncio.AbstractEventLoop, Supervisor] = {}


def supervisor() -> Supervisor:
    """The supervisor of the running event loop."""
    return _supervisors.setdefault(asyncio.get_running_loop(), Supervisor())
