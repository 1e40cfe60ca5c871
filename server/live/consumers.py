import json
from typing import Literal

from channels.db import database_sync_to_async
from channels.generic.websocket import AsyncWebsocketConsumer
from django.http import Http404
from materials import services
from materials.api import ProofOut
from nineglass.documents.model import Material, Stage, read
from ninja import Schema

from live.messages import ASKED, LONGEST_MESSAGE
from live.supervisor import supervisor
from live.wire import for_browser

NOT_YOURS, TOO_LARGE, NOT_UNDERSTOOD = 4404, 4413, 4400


class ProofKept(Schema):
    """A proof that was asked for, as it is kept."""

    type: Literal["kept"] = "kept"
    request: str
    proof: ProofOut


class LivePicture(AsyncWebsocketConsumer):
    """The live picture of one open bench; for the material's owner only."""

    session: str | None = None

    async def connect(self):
        person = self.scope["user"]
        self.material_id = self.scope["url_route"]["kwargs"]["material_id"]
        await self.accept()
        try:
            if not person.is_authenticated:
                raise Http404
            await database_sync_to_async(services.get)(person, self.material_id)
        except Http404:
            await self.close(NOT_YOURS)
            return
        self.session = await supervisor().open(self.hear)

    async def disconnect(self, code):
        if self.session:
            await supervisor().close(self.session)

    async def receive(self, text_data=None, bytes_data=None):
        if self.session is None:
            return
        if text_data is None or len(text_data) > LONGEST_MESSAGE:
            await self.close(TOO_LARGE)
            return
        try:
            message = ASKED.validate_python(json.loads(text_data))
        except (ValueError, RecursionError):
            await self.close(NOT_UNDERSTOOD)
            return
        message = message.model_dump()
        await supervisor().say(self.session, message)

    async def hear(self, header: dict, payload: bytes) -> None:
        """Pass on what the renderer says; a proof is kept first."""
        if header["type"] == "proof":
            header, payload = await self._keep(header, payload), b""
        await self.send(bytes_data=for_browser(header, payload))

    @database_sync_to_async
    def _keep(self, header: dict, picture: bytes) -> dict:
        material, stage = read(Material, header["material"]), read(Stage, header["stage"])
        facts = (header["samples"], header["noise"])
        proof = services.keep_proof(self.scope["user"], self.material_id, material, stage, picture, *facts)
        return ProofKept(request=header["request"], proof=ProofOut.from_orm(proof)).model_dump(mode="json")
