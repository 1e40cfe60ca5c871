import asyncio
import contextlib
import json
import logging
import time
from typing import Literal

from channels.generic.websocket import AsyncWebsocketConsumer
from config.database import in_database
from config.errors import logged
from django.db import DatabaseError
from django.http import Http404
from library.checks import named_like_files
from library.services import own_files
from materials import services
from materials.api import ProofOut
from nineglass.describe import Fault, Refused
from nineglass.documents.model import Material, Stage, read
from nineglass.documents.plain import fault_of_json
from nineglass.documents.trials import read_trial
from nineglass.files import absent
from ninja import Schema
from people import services as people
from trials import services as trials
from trials.api import TrialOut

from live import signed_in
from live.messages import ASKED, LONGEST_MESSAGE, FaultsFound, NotKept
from live.supervisor import supervisor
from live.wire import for_browser

log = logging.getLogger(__name__)

NOT_YOURS, TOO_LARGE, NOT_UNDERSTOOD, SIGNED_OUT = 4404, 4413, 4400, 4401
"""Codes with which a socket is closed for good."""

TOO_SLOW, TOO_MANY = 4408, 4429
"""Codes after which a browser may try again."""

MOST_AT_ONCE, MOST_A_SECOND = 400, 200
"""How many messages a browser may send."""

RETRY_AFTER_S = (0.5, 1.5, 4.0)
"""When a proof is tried again while the database is away."""

LOOKS_AGAIN_S = 5.0
"""How often it is made sure that the person is still signed in."""


class ProofKept(Schema):
    """A proof that was asked for, as it is kept."""

    type: Literal["kept"] = "kept"
    request: str
    proof: ProofOut


class TrialKept(Schema):
    """A trial that was asked for, as it is kept."""

    type: Literal["trial_kept"] = "trial_kept"
    request: str
    trial: TrialOut


class Here(Schema):
    """Who else is at this material, its newest revision, and `people.services.last_said`: told when any is another than it was."""

    type: Literal["here"] = "here"
    others: list[str]
    revision: int
    last_said: str


class LivePicture(AsyncWebsocketConsumer):
    """The live picture of one open bench; for those who may look at the material."""

    session: str | None = None
    _here: Here | None = None
    _watch: asyncio.Task | None = None
    _own_files: frozenset[str] = frozenset()
    _allowed: float = MOST_AT_ONCE
    _said_at: float = 0.0

    async def connect(self):
        person = self.scope["user"]
        self.material_id = self.scope["url_route"]["kwargs"]["material_id"]
        await self.accept()
        try:
            if not person.is_authenticated:
                raise Http404
            material = await in_database(services.get)(person, self.material_id)
        except Http404:
            await self.close(NOT_YOURS)
            return
        said = await in_database(people.last_said)(material)
        self._here = Here(others=[], revision=material.revision, last_said=said)
        self.session = await supervisor().open(self.hear, self.give_up, person.pk)
        signed_in.join(self._session_key, self)
        self._watch = asyncio.create_task(self._stay())

    async def disconnect(self, code):
        await self.leave()

    async def leave(self) -> None:
        """Leave the renderer; nothing more is heard from it."""
        session, self.session = self.session, None
        if session:
            signed_in.leave(self._session_key, self)
            self._watch.cancel()
            await supervisor().close(session)
            with contextlib.suppress(DatabaseError):
                await in_database(people.leave)(self.scope["user"], self.material_id)

    async def give_up(self) -> None:
        await self.leave()
        with contextlib.suppress(TimeoutError):
            await asyncio.wait_for(self.close(TOO_SLOW), 1)

    async def sign_out(self) -> None:
        await self._end(SIGNED_OUT)

    async def _end(self, code: int) -> None:
        """Close the socket for good; a browser that is gone already hears nothing of it."""
        await self.leave()
        with contextlib.suppress(OSError):
            await self.close(code)

    @property
    def _session_key(self) -> str:
        return self.scope["session"].session_key

    async def _stay(self) -> None:
        """Tells who else is here; ends the bench when the person has signed out elsewhere, or may no longer look."""
        while True:
            if await self._has_ended():
                self._ending = asyncio.create_task(self._end(SIGNED_OUT))
                return
            try:
                await self._tell_who_is_here()
            except Http404:
                self._ending = asyncio.create_task(self._end(NOT_YOURS))
                return
            await asyncio.sleep(LOOKS_AGAIN_S)

    async def _tell_who_is_here(self) -> None:
        try:
            found = await in_database(people.be_here)(self.scope["user"], self.material_id)
        except DatabaseError:
            return
        others, revision, said = found
        here = Here(others=others, revision=revision, last_said=said)
        if here != self._here:
            self._here = here
            await self.send(bytes_data=for_browser(here.model_dump(mode="json"), b""))

    async def _has_ended(self) -> bool:
        try:
            return not await in_database(signed_in.lasts)(self._session_key)
        except DatabaseError:
            log.warning("the database is away; whether somebody is signed in is looked up again later")
            return False

    async def receive(self, text_data=None, bytes_data=None):
        if self.session is None:
            return
        if not self._may_say_more():
            await self.leave()
            await self.close(TOO_MANY)
            return
        if text_data is None or len(text_data) > LONGEST_MESSAGE:
            await self.leave()
            await self.close(TOO_LARGE)
            return
        try:
            given = json.loads(text_data)
            fault = fault_of_json(given)
            sequence = int(given["sequence"]) if given["type"] == "show" else 0
            if fault and given["type"] != "show":
                raise ValueError(fault.line())
            faults = [fault] if fault else []
            message = None if faults else ASKED.validate_python(given).model_dump()
        except (ValueError, RecursionError, TypeError, KeyError, OverflowError):
            await self.leave()
            await self.close(NOT_UNDERSTOOD)
            return
        try:
            faults = faults or await self._faults_of_files(message)
        except DatabaseError:
            await self.give_up()
            return
        if faults:
            await self.hear(FaultsFound(faults=faults).model_dump() | {"sequence": sequence}, b"")
        else:
            await supervisor().say(self.session, message)

    def _may_say_more(self) -> bool:
        now = time.monotonic()
        self._allowed = min(MOST_AT_ONCE, self._allowed + (now - self._said_at) * MOST_A_SECOND) - 1
        self._said_at = now
        return self._allowed > 0

    async def _faults_of_files(self, message: dict) -> list[Fault]:
        """Files of others are nothing to show: what is named like a file is the person's own."""
        named = named_like_files(message) - self._own_files
        if named:
            self._own_files |= await in_database(own_files)(self.scope["user"], named)
        return [absent("file", name) for name in named - self._own_files]

    async def hear(self, header: dict, payload: bytes) -> None:
        """Pass on what the renderer says; a proof is kept first."""
        if header["type"] in KEPT:
            header, payload = await self._kept(header, payload), b""
        await self.send(bytes_data=for_browser(header, payload))

    async def _kept(self, header: dict, picture: bytes) -> dict:
        try:
            return await self._keep_patiently(header, picture)
        except Refused as refused:
            says = "; ".join(fault.line() for fault in refused.faults)
            return NotKept(request=header["request"], says=says).model_dump(mode="json")
        except Exception as error:
            number = logged(log, error, f"a {header['type']} could not be kept")
            says = f"the server could not store it; the log has this as {number}"
            return NotKept(request=header["request"], says=says).model_dump(mode="json")

    async def _keep_patiently(self, header: dict, picture: bytes) -> dict:
        for pause in RETRY_AFTER_S:
            with contextlib.suppress(DatabaseError):
                return await self._keep(header, picture)
            await asyncio.sleep(pause)
        return await self._keep(header, picture)

    @in_database
    def _keep(self, header: dict, picture: bytes) -> dict:
        return KEPT[header["type"]](self.scope["user"], self.material_id, header, picture).model_dump(mode="json")


def _keep_proof(person, material_id, header: dict, picture: bytes) -> ProofKept:
    material, stage = read(Material, header["material"]), read(Stage, header["stage"])
    facts = (header["samples"], header["noise"])
    proof = services.keep_proof(person, material_id, material, stage, picture, *facts)
    return ProofKept.model_validate({"request": header["request"], "proof": proof})


def _keep_trial(person, material_id, header: dict, picture: bytes) -> TrialKept:
    trial, facts = read_trial(header["document"]), (header["means"], header["noise"])
    kept = trials.keep(person, material_id, trial, picture, *facts)
    return TrialKept.model_validate({"request": header["request"], "trial": kept})


KEPT = {"proof": _keep_proof, "trial_made": _keep_trial}
"""What the renderer makes to be kept, and how it is."""
