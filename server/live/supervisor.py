"""Keeps one rendering process alive, and carries messages between it and the open benches."""

import asyncio
import contextlib
import hashlib
import json
import logging
import os
import sys
import uuid
from collections import defaultdict, deque
from collections.abc import Awaitable, Callable
from dataclasses import asdict, dataclass, field

from django.conf import settings
from nineglass.describe import Fault

from live.outbox import Hear, Outbox
from live.wire import LENGTHS, pack

log = logging.getLogger(__name__)

LONGEST_PAUSE_S = 5.0
STARTS_WITHIN_S = 60.0
SILENT_S = 6.0
"""How long the renderer may say nothing: it tells each second that it lives."""

STUCK_S = 8.0
"""How long one step of its work may take."""

LOOKS_EVERY_S = 0.5
MOST_WISHES_A_MINUTE = 30
PROOF, TRIAL = "keep", "keep_trial"
"""What may be wished for. A wish for a proof outlives the renderer; the pictures of a trial end with it."""

MOST_DEATHS = 2
"""How often the renderer may end over one document that gave no picture, before that is set aside."""

MOST_DEATHS_OF_ONE, FORGIVEN_AFTER_S = 4, 600.0
"""How often it may end over whatever one person shows, before that person waits: until the oldest of these is so long ago."""


@dataclass
class Session:
    """One open bench as the supervisor knows it."""

    outbox: Outbox
    person: int | None = None
    shown: dict | None = None
    """What it shows, to be said again to a new process."""
    deaths: int = 0
    """How often the renderer ended while it worked on that, before it gave a picture."""
    wishes: dict[str, str] = field(default_factory=dict)
    """What is to be kept, PROOF or TRIAL by its request."""
    wished_at: deque[float] = field(default_factory=deque)
    """When the wishes of the last minute came."""


class Supervisor:
    """One for each server process; the rendering process starts with the first bench, and ends a while after the last."""

    def __init__(self, linger_s: float | None = None):
        self.sessions: dict[str, Session] = {}
        self.process: asyncio.subprocess.Process | None = None
        self.linger_s = settings.RENDERER_LINGERS_S if linger_s is None else linger_s
        self._keeper: asyncio.Task | None = None
        self._ending: asyncio.Task | None = None
        self._lock = asyncio.Lock()
        self._turn: tuple[str, int] | None = None
        self._patience = 0.0
        self._gave_pictures = False
        self._set_aside: set[str] = set()
        """Digests of documents that the renderer ended over."""
        self._ended_over: defaultdict[int | None, deque[float]] = defaultdict(lambda: deque(maxlen=MOST_DEATHS_OF_ONE))
        """When it ended over what a person showed."""

    async def open(
        self, hear: Hear, give_up: Callable[[], Awaitable[None]] | None = None, person: int | None = None
    ) -> str:
        """Join: `hear` gets every message for the new session, whose name is returned; `give_up` is called when it is too slow."""
        session = uuid.uuid4().hex

        async def dropped():
            await self._tell({"type": "shown", "session": session})

        async def leave():
            await self.close(session)

        self.sessions[session] = Session(Outbox(hear, give_up or leave, dropped), person)
        async with self._lock:
            if self._ending:
                self._ending.cancel()
                self._ending = None
            if self._keeper is None or self._keeper.done():
                self._keeper = asyncio.create_task(self._keep())
        return session

    async def close(self, session: str) -> None:
        left = self.sessions.pop(session, None)
        if left:
            left.outbox.close()
        await self._tell({"type": "close", "session": session})
        async with self._lock:
            if not self.sessions and self._keeper and self._ending is None:
                self._ending = asyncio.create_task(self._end_later())

    async def end(self) -> None:
        """End the process now."""
        keeper, self._keeper = self._keeper, None
        if keeper:
            keeper.cancel()
            await asyncio.gather(keeper, return_exceptions=True)

    async def _end_later(self) -> None:
        await asyncio.sleep(self.linger_s)
        async with self._lock:
            self._ending = None
            if not self.sessions:
                await self.end()

    async def say(self, session: str, message: dict) -> None:
        """Pass a bench's message on; what it shows is kept, to be said again to a new process."""
        known = self.sessions.get(session)
        if known is None:
            return
        message = {**message, "session": session}
        if message["type"] == "show":
            if self._set_aside and _digest(message) in self._set_aside:
                await self._refuse(known, message["sequence"], ENDS_RENDERER)
                return
            if self._has_to_wait(known.person):
                await self._refuse(known, message["sequence"], TOO_OFTEN)
                return
            known.shown, known.deaths = message, 0
        elif message["type"] in (PROOF, TRIAL) and not await self._takes_wish(known, message):
            return
        await self._tell(message)

    def _has_to_wait(self, person: int | None) -> bool:
        """Whether the renderer ended too often lately over what a person showed, whatever each time it was."""
        ended = self._ended_over.get(person, ())
        now = asyncio.get_running_loop().time()
        return len(ended) == MOST_DEATHS_OF_ONE and now < ended[0] + FORGIVEN_AFTER_S

    @staticmethod
    async def _takes_wish(known: Session, message: dict) -> bool:
        """Whether a bench may wish for one more to be kept; it is told when not."""
        request = message["request"]
        now = asyncio.get_running_loop().time()
        while known.wished_at and known.wished_at[0] < now - 60:
            known.wished_at.popleft()
        if len(known.wished_at) < MOST_WISHES_A_MINUTE:
            known.wished_at.append(now)
            known.wishes[request] = message["type"]
            return True
        says = f"{MOST_WISHES_A_MINUTE} in a minute are the most"
        await known.outbox.put({"type": "not_kept", "sequence": 0, "request": request, "says": says}, b"")
        return False

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
            watch = None
            try:
                await self._start()
                watch = asyncio.create_task(self._watch())
                await self._hear()
            finally:
                if watch:
                    watch.cancel()
                await self._stop()
            log.warning("the renderer ended; starting it again")
            await self._after_death()
            pause = 0.2 if self._gave_pictures else min(pause * 2, LONGEST_PAUSE_S)
            await asyncio.sleep(pause)

    async def _start(self) -> None:
        environment = {**os.environ, "PYTHONPATH": os.pathsep.join(path for path in sys.path if path)}
        self._turn = None
        self._gave_pictures = False
        self._be_patient(STARTS_WITHIN_S)
        self.process = await asyncio.create_subprocess_exec(
            sys.executable,
            "-m",
            "live.renderer",
            cwd=settings.BASE_DIR,
            env=environment,
            stdin=asyncio.subprocess.PIPE,
            stdout=asyncio.subprocess.PIPE,
        )
        for name, session in list(self.sessions.items()):
            if session.shown:
                await self._tell(session.shown)
                for request, what in list(session.wishes.items()):
                    await self._tell({"type": what, "session": name, "request": request})

    async def _stop(self) -> None:
        process, self.process = self.process, None
        if process and process.returncode is None:
            process.kill()
            await process.wait()

    def _be_patient(self, seconds: float) -> None:
        self._patience = asyncio.get_running_loop().time() + seconds

    async def _watch(self) -> None:
        """End a renderer that hangs."""
        while asyncio.get_running_loop().time() < self._patience:
            await asyncio.sleep(LOOKS_EVERY_S)
        log.error("the renderer hangs; ending it")
        with contextlib.suppress(ProcessLookupError):
            self.process.kill()

    async def _hear(self) -> None:
        read = self.process.stdout.readexactly
        while True:
            try:
                size, extra = LENGTHS.unpack(await read(LENGTHS.size))
                header, payload = json.loads(await read(size)), await read(extra)
            except (asyncio.IncompleteReadError, ConnectionError):
                return
            name = header.pop("session")
            if not name:
                self._hear_for_itself(header)
            elif session := self.sessions.get(name):
                self._note(session, header)
                await session.outbox.put(header, payload)

    def _hear_for_itself(self, header: dict) -> None:
        if header["type"] == "turn":
            self._turn = (header["bench"], header["shows"])
        self._be_patient(SILENT_S if header.get("seconds", 0) < STUCK_S else 0)

    def _note(self, session: Session, header: dict) -> None:
        if header["type"] in ("proof", "trial_made", "not_kept"):
            session.wishes.pop(header["request"], None)
        elif header["type"] == "frame" and not header["coarse"]:
            session.deaths = 0
            self._gave_pictures = True

    async def _after_death(self) -> None:
        """Tell every bench, and set aside what the renderer ends over again and again."""
        for name, session in list(self.sessions.items()):
            shows = session.shown["sequence"] if session.shown else 0
            if session.shown and self._turn == (name, shows):
                session.deaths += 1
                self._ended_over[session.person].append(asyncio.get_running_loop().time())
            await session.outbox.put({"type": "restarted", "sequence": shows}, b"")
            lost = [request for request, what in session.wishes.items() if what == TRIAL]
            await self._disappoint(session, shows, lost, "its pictures are gone")
            if session.deaths >= MOST_DEATHS:
                self._set_aside.add(_digest(session.shown))
                await self._refuse(session, shows, ENDS_RENDERER)
            elif session.shown and self._has_to_wait(session.person):
                await self._refuse(session, shows, TOO_OFTEN)

    @staticmethod
    async def _disappoint(session: Session, sequence: int, requests: list[str], says: str) -> None:
        for request in requests:
            del session.wishes[request]
            await session.outbox.put({"type": "not_kept", "sequence": sequence, "request": request, "says": says}, b"")

    @staticmethod
    async def _refuse(session: Session, sequence: int, why: Fault) -> None:
        session.shown = None
        await Supervisor._disappoint(session, sequence, list(session.wishes), why.fault)
        await session.outbox.put({"type": "faults", "sequence": sequence, "faults": [asdict(why)]}, b"")


def _digest(message: dict) -> str:
    """Of the documents that a message shows, whatever anything in them is called."""
    shown = json.dumps(_unnamed([message[name] for name in ("material", "stage", "settings")]), sort_keys=True)
    return hashlib.sha256(shown.encode()).hexdigest()


def _unnamed(one):
    if isinstance(one, dict):
        return {key: _unnamed(value) for key, value in one.items() if key not in ("name", "title")}
    return [_unnamed(value) for value in one] if isinstance(one, list) else one


ENDS_RENDERER = Fault(
    "$",
    f"the renderer ended or hung {MOST_DEATHS} times over this document; it is not shown",
    "what can be shown",
    "Undo the last change; nothing that you made is lost.",
)

TOO_OFTEN = Fault(
    "$",
    f"the renderer ended {MOST_DEATHS_OF_ONE} times over what you showed; others work with it as well",
    f"a pause: until {FORGIVEN_AFTER_S / 60:.0f} minutes after the first of these",
    "Go back to what was shown before; nothing that you made is lost.",
)

_supervisors: dict[asyncio.AbstractEventLoop, Supervisor] = {}


def supervisor() -> Supervisor:
    """The supervisor of the running event loop."""
    return _supervisors.setdefault(asyncio.get_running_loop(), Supervisor())
