"""Who may do what: every endpoint, view and socket, asked by everybody. An endpoint that is not in the table fails."""

import asyncio
import json
import logging
import re
from datetime import timedelta
from unittest import mock

from asgiref.testing import ApplicationCommunicator
from devices import services as devices
from devices.models import Scan
from django.conf import settings
from django.contrib.auth import get_user_model
from django.core.files.base import ContentFile
from django.db import transaction
from django.test import Client, TestCase, TransactionTestCase
from django.utils import timezone
from handovers.models import HandedOver, TakenIn
from library.models import KeptFile, KeptModule, KeptPreset, KeptSwatch
from live.consumers import NOT_YOURS
from live.tests.test_signed_in import NoRenderer
from materials import services as materials
from materials.models import Material
from nineglass.documents import model as documents
from nineglass.documents.final import Final
from people.models import Comment, Share
from pictures.models import FinalPicture, Frame, KeptFinish
from stages.models import Stage
from trials.models import Trial

from config.api import api
from config.urls import PLACES, urlpatterns

SIGNED_IN, LOOK, COMMENT, CHANGE, OWN = range(5)
ROLES = {"stranger": SIGNED_IN, "looks": LOOK, "comments": COMMENT, "changes": CHANGE, "keeper": OWN}
"""How far each of them reaches what the keeper has shared."""

NEEDED = {
    "GET /api/materials/{material_id}": LOOK,
    "PUT /api/materials/{material_id}": CHANGE,
    "DELETE /api/materials/{material_id}": OWN,
    "POST /api/materials/{away_id}/bring-back": OWN,
    "PUT /api/materials/{material_id}/tags": OWN,
    "GET /api/materials/{material_id}/revisions": LOOK,
    "GET /api/materials/{material_id}/proofs": LOOK,
    "GET /api/materials/{material_id}/comments": LOOK,
    "POST /api/proofs/{proof_id}/comments": COMMENT,
    "DELETE /api/comments/{comment_id}": OWN,
    "GET /api/people/shares/{kind}/{of}": LOOK,
    "PUT /api/people/shares/{kind}/{of}": OWN,
    "DELETE /api/people/shares/{share_id}": OWN,
    "PUT /api/stages/{stage_id}/standing/{material_id}": LOOK,
    "DELETE /api/stages/{stage_id}": OWN,
    "GET /api/stages/{stage_id}": LOOK,
    "PUT /api/stages/{stage_id}": CHANGE,
    "DELETE /api/trials/{trial_id}": OWN,
    "POST /api/pictures/{picture_id}/pause": OWN,
    "POST /api/pictures/{picture_id}/go-on": OWN,
    "POST /api/pictures/{picture_id}/first": OWN,
    "POST /api/pictures/{picture_id}/take-up": OWN,
    "GET /api/pictures/{picture_id}/frames": OWN,
    "POST /api/pictures/{picture_id}/finish": OWN,
    "PUT /api/pictures/finishes/{finish_id}": OWN,
    "DELETE /api/pictures/finishes/{finish_id}": OWN,
    "POST /api/pictures/{picture_id}/lights": OWN,
    "POST /api/pictures/{picture_id}/taken-over": OWN,
    "DELETE /api/pictures/{picture_id}": OWN,
    "DELETE /api/handovers/{handed_id}": OWN,
    "GET /api/handovers/in/{material_id}": LOOK,
    "POST /api/devices/scans/{scan_id}/stop": OWN,
    "GET /api/devices/scans/{scan_id}/dials": OWN,
    "POST /api/devices/scans/{scan_id}/dye": OWN,
    "DELETE /api/devices/scans/{scan_id}": OWN,
    "PUT /api/modules/{module_id}": OWN,
    "DELETE /api/modules/{module_id}": OWN,
    "DELETE /api/presets/{preset_id}": OWN,
    "DELETE /api/swatches/{swatch_id}": OWN,
    "GET /files/{sha256}/picture.png": OWN,
    "GET /materials/{material_id}/picture.jpg": LOOK,
    "GET /stages/{stage_id}/picture.jpg": LOOK,
    "GET /proofs/{proof_id}/picture.png": LOOK,
    "GET /trials/{trial_id}/sheet.png": LOOK,
    "GET /trials/{trial_id}/table.csv": LOOK,
    "GET /pictures/{final_id}/preview.jpg": OWN,
    "GET /pictures/{final_id}/turned.jpg": OWN,
    "GET /pictures/{final_id}/finished.jpg": OWN,
    "GET /pictures/{final_id}/finished.exr": OWN,
    "GET /pictures/{final_id}/motion.webm": OWN,
    "GET /pictures/{final_id}/frames/{number}.jpg": OWN,
    "GET /pictures/{final_id}/frames-{ending}.zip": OWN,
    "GET /pictures/{final_id}/{name}": OWN,
    "GET /handovers/{handed_id}/file": OWN,
    "GET /handovers/{handed_id}/{number}.png": OWN,
    "GET /devices/scans/{scan_id}.{ending}": OWN,
}
"""What one must be of the keeper's thing that the address names."""

NOT_MADE = {
    "GET /pictures/{final_id}/motion.webm",
    "GET /handovers/{handed_id}/file",
    "GET /pictures/{final_id}/turned.jpg",
    "GET /pictures/{final_id}/finished.jpg",
    "GET /pictures/{final_id}/finished.exr",
    "GET /pictures/{final_id}/frames/{number}.jpg",
    "GET /pictures/{final_id}/frames-{ending}.zip",
    "GET /pictures/{final_id}/{name}",
    "GET /files/{sha256}/picture.png",
    "GET /materials/{material_id}/picture.jpg",
    "GET /stages/{stage_id}/picture.jpg",
    "GET /handovers/{handed_id}/{number}.png",
    "GET /trials/{trial_id}/table.csv",
}
"""Files that would have to be rendered first: here it is only seen that they are kept from others; that they are given, where they are made."""

OF_NOBODY = {
    "GET /",
    *(f"GET /{place}/" for place in PLACES),
    "GET /bench/{material_id}/",
    "GET /stage/{material_id}/",
    "GET /library/{material_id}/",
    "GET /trials/{material_id}/",
    "GET /pictures/{material_id}/",
    "GET /handovers/views/{view}.cube",
    "POST /api/files/{kind}",
}
"""Addresses that name nothing of anybody's: the pages of the application ask the API themselves."""

WAYS_IN = {"GET /admin/login/", "GET /enter/{token}/", "GET /join/{token}/", "GET /sign-in/", "GET /sign-out/"}


def demo(name: str) -> dict:
    return json.loads((settings.DEMO_DIR / f"{name}.json").read_text())


def endpoints() -> list[str]:
    """Every method and address, of the API and of the views."""
    paths = api.get_openapi_schema()["paths"]
    own = [f"{method.upper()} {path}" for path, about in paths.items() for method in about]
    views = [f"GET /{one.pattern}" for one in urlpatterns if str(one.pattern) not in ("api/", "admin/")]
    return own + [re.sub(r"<\w+:(\w+)>", r"{\1}", one) for one in views]


def plain(endpoint: str) -> str:
    return endpoint.replace("{away_id}", "{material_id}")


class Everything(TestCase):
    """One of each kind of thing of the keeper's, with the material, the stage and the trial shared by three roles."""

    @classmethod
    def setUpClass(cls):
        super().setUpClass()
        # Files that are not there are asked for on purpose.
        logging.disable(logging.ERROR)
        cls.addClassCleanup(logging.disable, logging.NOTSET)

    @classmethod
    def setUpTestData(cls):
        cls.people = {name: get_user_model().objects.create_user(name) for name in ROLES}
        keeper = cls.people["keeper"]
        glass = documents.read(documents.Material, demo("net-float"))
        room = documents.read(documents.Stage, demo("lamp-room"))
        material, away, _ = (materials.create(keeper, glass) for _ in range(3))
        materials.put_away(keeper, away.id)
        stage, _ = (Stage.objects.create(owner=keeper, name="Room", document=demo("lamp-room")) for _ in range(2))
        png = ContentFile(b"png", "a.png")
        tried = {"across": {}, "down": None}
        about = {"name": "tried", "document": tried, "means": [], "noise": []}
        trial = Trial.objects.create(owner=keeper, material=material, picture=png, **about)
        proof = materials.keep_proof(keeper, material.id, glass, room, b"png", 1, None)
        for name, may in (("looks", "look"), ("comments", "comment"), ("changes", "change")):
            for thing in ({"material": material}, {"stage": stage}, {"trial": trial}):
                share = Share.objects.create(person=cls.people[name], may=may, **thing)
        share = Share.objects.create(
            material=material, person=get_user_model().objects.create_user("other"), may="look"
        )
        about = {"material": demo("net-float"), "stage": demo("lamp-room"), "final": Final().model_dump(mode="json")}
        files = dict.fromkeys(("preview", "by_light", "exr", "png", "video"), png)
        final = FinalPicture.objects.create(owner=keeper, name="final", **about, **files)
        Frame.objects.create(picture=final, number=0, look_at=1)
        handed = {
            "name": "handed",
            "format": "mtlx",
            "report": {"format": "mtlx"},
            "file_name": "a",
            "bytes": 3,
            "file": png,
        }
        TakenIn.objects.create(material=material, file_name="a", report={"format": "mtlx"})
        module = next(
            one
            for one in map(json.loads, (p.read_text() for p in sorted(settings.DEMO_DIR.glob("*.json"))))
            if one["format"] == "nineglass.module"
        )
        file = {"sha256": "0" * 64, "kind": "texture", "name": "a", "bytes": 1, "facts": {}}
        scan = devices.begin(keeper, "spectrophotometer", {})
        Scan.objects.update(began_at=timezone.now() - timedelta(minutes=5))
        made = {
            "material_id": material,
            "away_id": away,
            "of": material,
            "stage_id": stage,
            "trial_id": trial,
            "proof_id": proof,
            "comment_id": Comment.objects.create(proof=proof, author=keeper, says="said"),
            "share_id": share,
            "picture_id": final,
            "final_id": final,
            "finish_id": KeptFinish.objects.create(owner=keeper, document={}),
            "handed_id": HandedOver.objects.create(owner=keeper, material={}, stage={}, **handed),
            "scan_id": scan,
            "module_id": KeptModule.objects.create(owner=keeper, name="m", document=module),
            "preset_id": KeptPreset.objects.create(owner=keeper, name="p", is_whole=True, document=demo("net-float")),
            "swatch_id": KeptSwatch.objects.create(owner=keeper, name="s", color=[1, 1, 1]),
        }
        KeptFile.objects.create(owner=keeper, **file)
        cls.named = {name: str(one.id) for name, one in made.items()}
        cls.named |= {"sha256": file["sha256"], "kind": "material", "number": "0", "ending": "csv", "name": "final.exr"}
        cls.module = module

    def body(self, endpoint: str) -> dict:
        both = {"material": demo("net-float"), "stage": demo("lamp-room")}
        bodies = {
            "POST /api/pictures/{picture_id}/taken-over": both,
            "PUT /api/materials/{material_id}": {"based_on": 1, "document": demo("net-float")},
            "PUT /api/materials/{material_id}/tags": {"tags": []},
            "POST /api/proofs/{proof_id}/comments": {"says": "said"},
            "PUT /api/people/shares/{kind}/{of}": {"person": "stranger", "may": "look"},
            "PUT /api/stages/{stage_id}": {"based_on": 1, "document": demo("lamp-room")},
            "POST /api/pictures/{picture_id}/go-on": {"final": None},
            "POST /api/pictures/{picture_id}/finish": {"finish_id": None},
            "PUT /api/pictures/finishes/{finish_id}": {"based_on": 1, "document": {}},
            "POST /api/pictures/{picture_id}/lights": {"gains": {}, "exposure": 0},
            "POST /api/devices/scans/{scan_id}/dye": demo("net-float"),
            "PUT /api/modules/{module_id}": {"based_on": 1, "document": self.module},
        }
        return bodies.get(endpoint, {})

    def ask(self, client: Client, endpoint: str):
        """The answer; what it changed is taken back."""
        method, path = endpoint.split(" ")
        client.raise_request_exception = False
        with transaction.atomic():
            found = client.generic(
                method, path.format(**self.named), json.dumps(self.body(endpoint)), "application/json"
            )
            transaction.set_rollback(True)
        return found

    def test_every_address_is_in_the_table(self):
        told = {plain(one) for one in NEEDED} | OF_NOBODY | WAYS_IN
        named = {one for one in endpoints() if "{" in one or not one.split(" ")[1].startswith("/api/")}
        self.assertEqual(named - told, set())
        self.assertEqual(told - set(endpoints()), set())

    def test_each_reaches_what_they_may_and_nothing_else(self):
        for role, far in ROLES.items():
            client = Client()
            client.force_login(self.people[role])
            for endpoint, needed in NEEDED.items():
                with self.subTest(role=role, endpoint=endpoint):
                    answer = self.ask(client, endpoint)
                    if far < needed or endpoint not in NOT_MADE:
                        said = (answer.status_code, getattr(answer, "content", b"")[:300])
                        self.assertEqual(self.was_reached(answer), far >= needed, said)

    @staticmethod
    def was_reached(answer) -> bool:
        """Whether it got as far as the thing: 404 where it is not to be seen, 422 where one may not do that with it."""
        if answer.status_code == 422:
            return b"you may" not in answer.content
        return answer.status_code not in (401, 403, 404, 500)

    def test_lists_hold_nothing_of_others(self):
        ids = {name: one for name, one in self.named.items() if name.endswith("_id")}
        stranger = Client()
        stranger.force_login(self.people["stranger"])
        for endpoint in endpoints():
            method, path = endpoint.split(" ")
            if method == "GET" and "{" not in path and path.startswith("/api/"):
                query = {"material_id": ids["material_id"]} if path == "/api/trials" else {}
                told = stranger.get(path, query).content.decode()
                self.assertEqual([name for name, one in ids.items() if one in told], [], path)

    def test_nobody_who_is_not_signed_in_reaches_anything(self):
        for endpoint in endpoints():
            if endpoint not in WAYS_IN:
                self.named |= {"token": "x", "view": "plain"}
                answer = self.ask(Client(), endpoint)
                self.assertIn(answer.status_code, (302, 401, 403), endpoint)


class Sockets(TransactionTestCase):
    """The live picture of a material is for those who may look at it."""

    def test_who_sees_the_live_picture(self):
        people = {name: get_user_model().objects.create_user(name) for name in ROLES}
        document = documents.read(documents.Material, demo("net-float"))
        material = materials.create(people["keeper"], document)
        for name, may in (("looks", "look"), ("comments", "comment"), ("changes", "change")):
            Share.objects.create(person=people[name], may=may, material=material)
        cookies = {"nobody": ""}
        for name, person in people.items():
            client = Client()
            client.force_login(person)
            cookies[name] = client.cookies[settings.SESSION_COOKIE_NAME].value
        seen = {name: asyncio.run(self.opens(material, cookie)) for name, cookie in cookies.items()}
        self.assertEqual({name for name, is_open in seen.items() if not is_open}, {"nobody", "stranger"})

    async def opens(self, material: Material, cookie: str) -> bool:
        from config.asgi import application

        renderer = NoRenderer()
        headers = [(b"host", b"127.0.0.1"), (b"origin", b"http://127.0.0.1")]
        headers.append((b"cookie", f"{settings.SESSION_COOKIE_NAME}={cookie}".encode()))
        about = {"type": "websocket", "path": f"/live/{material.id}/", "headers": headers}
        with mock.patch("live.consumers.supervisor", lambda: renderer):
            socket = ApplicationCommunicator(application, about)
            await socket.send_input({"type": "websocket.connect"})
            await socket.receive_output(30)
            while not renderer.open_sessions:
                if not await socket.receive_nothing(0.05):
                    self.assertEqual((await socket.receive_output(30))["code"], NOT_YOURS)
                    return False
            await socket.send_input({"type": "websocket.disconnect", "code": 1000})
            await socket.wait(30)
            return True
