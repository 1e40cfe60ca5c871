import asyncio
import gc
import json
import time
from unittest import mock

from asgiref.sync import sync_to_async
from asgiref.testing import ApplicationCommunicator
from django.conf import settings
from django.contrib.auth import get_user_model
from django.contrib.sessions.models import Session
from django.db import OperationalError
from django.test import Client, TransactionTestCase
from materials import services
from nineglass.documents.model import Material, read

from live.consumers import MOST_A_SECOND, MOST_AT_ONCE, NOT_UNDERSTOOD, SIGNED_OUT, TOO_MANY, TOO_SLOW
from live.wire import HEADER_LENGTH

PATIENCE_S = 60


class NoRenderer:
    """Stands for the supervisor: takes what benches say."""

    def __init__(self):
        self.said, self.open_sessions = [], 0

    async def open(self, hear, give_up, person):
        self.open_sessions += 1
        return "session"

    async def close(self, session):
        self.open_sessions -= 1

    async def say(self, session, message):
        self.said.append(message)


class SignedIn(TransactionTestCase):
    """A socket through the whole application, with a person who is signed in."""

    def setUp(self):
        self.person = get_user_model().objects.create_user("keeper")
        document = read(Material, (settings.DEMO_DIR / "net-float.json").read_bytes())
        self.material = services.create(self.person, document)
        self.client = Client()
        self.client.force_login(self.person)
        self.renderer = NoRenderer()
        patched = mock.patch("live.consumers.supervisor", lambda: self.renderer)
        patched.start()
        self.addCleanup(patched.stop)

    def run_story(self, story):
        async def whole():
            from config.asgi import application

            cookie = f"{settings.SESSION_COOKIE_NAME}={self.client.cookies[settings.SESSION_COOKIE_NAME].value}"
            headers = [(b"host", b"127.0.0.1"), (b"origin", b"http://127.0.0.1"), (b"cookie", cookie.encode())]
            path = f"/live/{self.material.id}/"
            socket = ApplicationCommunicator(application, {"type": "websocket", "path": path, "headers": headers})
            await socket.send_input({"type": "websocket.connect"})
            self.assertEqual((await socket.receive_output(PATIENCE_S))["type"], "websocket.accept")
            while not self.renderer.open_sessions:
                await asyncio.sleep(0.01)
            await story(socket)
            await socket.send_input({"type": "websocket.disconnect", "code": 1000})
            await socket.wait(PATIENCE_S)

        asyncio.run(whole())

    async def say(self, socket, **message):
        await socket.send_input({"type": "websocket.receive", "text": json.dumps(message)})

    async def closed_with(self, socket):
        return (await socket.receive_output(PATIENCE_S)).get("code")

    def show(self, **stage):
        documents = {"material": {}, "stage": stage, "settings": {}, "inside": ""}
        return {"type": "show", "sequence": 5, **documents}

    def test_the_socket_ends_with_the_sign_in(self):
        async def story(socket):
            await sync_to_async(self.client.post)("/sign-out/")
            self.assertEqual(await self.closed_with(socket), SIGNED_OUT)
            self.assertEqual(self.renderer.open_sessions, 0)
            await self.say(socket, type="keep", request="late")

        self.run_story(story)
        self.assertEqual(self.renderer.said, [])

    def test_also_when_the_sign_in_ends_by_way_of_another_server(self):
        async def story(socket):
            await sync_to_async(lambda: Session.objects.all().delete())()
            self.assertEqual(await self.closed_with(socket), SIGNED_OUT)

        with mock.patch("live.consumers.LOOKS_AGAIN_S", 0.05):
            self.run_story(story)

    def test_it_ends_when_the_person_is_made_inactive_or_the_password_changes(self):
        def inactive():
            get_user_model().objects.update(is_active=False)

        def another_password():
            self.person.set_password("salt-and-lamp-oil")
            self.person.save()

        for change in (inactive, another_password):

            async def story(socket, change=change):
                await sync_to_async(change)()
                self.assertEqual(await self.closed_with(socket), SIGNED_OUT)

            with self.subTest(change.__name__), mock.patch("live.consumers.LOOKS_AGAIN_S", 0.05):
                self.run_story(story)
            get_user_model().objects.update(is_active=True)

    def test_a_browser_that_is_gone_before_it_hears_of_it_is_no_error(self):
        wrong, closing = [], mock.AsyncMock(side_effect=ConnectionResetError)

        async def story(socket):
            asyncio.get_running_loop().set_exception_handler(lambda _, about: wrong.append(about))
            await sync_to_async(lambda: Session.objects.all().delete())()
            while not closing.await_count:
                await asyncio.sleep(0.01)
            self.assertEqual(self.renderer.open_sessions, 0)

        soon, closes = (
            mock.patch("live.consumers.LOOKS_AGAIN_S", 0.05),
            mock.patch("live.consumers.LivePicture.close", closing),
        )
        with soon, closes:
            self.run_story(story)
        gc.collect()
        self.assertEqual(wrong, [])

    def test_a_database_that_is_away_for_a_while_ends_nothing(self):
        asked = []

        def lasts(key):
            asked.append(key)
            if len(asked) < 3:
                raise OperationalError("the connection is closed")
            return True

        async def story(socket):
            while len(asked) < 4:
                await asyncio.sleep(0.01)
            self.assertEqual(self.renderer.open_sessions, 1)

        with mock.patch("live.consumers.LOOKS_AGAIN_S", 0.02), mock.patch("live.signed_in.lasts", lasts):
            self.run_story(story)

    def test_a_document_that_is_not_plain_is_a_fault_and_the_socket_stays(self):
        async def story(socket):
            await self.say(socket, **self.show(turn=float("nan")))
            heard = (await socket.receive_output(PATIENCE_S))["bytes"]
            (size,) = HEADER_LENGTH.unpack(heard[:4])
            said = json.loads(heard[4 : 4 + size])
            self.assertEqual((said["type"], said["sequence"]), ("faults", 5))
            self.assertEqual(said["faults"][0]["path"], "stage.turn")
            await self.say(socket, **self.show(turn=1))
            while not self.renderer.said:
                await asyncio.sleep(0.01)

        self.run_story(story)

    def test_a_file_of_somebody_else_is_not_shown(self):
        plain = json.dumps(self.show(file="ab" * 32))

        async def story(socket):
            for text in (plain, plain.replace("abab", "\\u0061bab", 1)):
                await socket.send_input({"type": "websocket.receive", "text": text})
                heard = (await socket.receive_output(PATIENCE_S))["bytes"]
                self.assertIn(b"there is no file", heard)

        self.run_story(story)
        self.assertEqual(self.renderer.said, [])

    def test_a_flood_is_cut_off(self):
        took = []

        async def story(socket):
            began = time.monotonic()
            for _ in range(4 * MOST_AT_ONCE):
                await self.say(socket, type="shown")
            self.assertEqual(await self.closed_with(socket), TOO_MANY)
            took.append(time.monotonic() - began)

        self.run_story(story)
        self.assertLessEqual(len(self.renderer.said), MOST_AT_ONCE + MOST_A_SECOND * took[0] + 1)

    def test_what_is_not_understood_ends_the_socket_and_its_bench(self):
        for text in ('{"type": "dance"}', '{"type": "show", "sequence": 1e999}'):

            async def story(socket, text=text):
                await socket.send_input({"type": "websocket.receive", "text": text})
                self.assertEqual(await self.closed_with(socket), NOT_UNDERSTOOD)
                self.assertEqual(self.renderer.open_sessions, 0)

            with self.subTest(text):
                self.run_story(story)

    def test_a_bench_leaves_where_the_database_is_away_when_it_says_something(self):
        async def story(socket):
            with mock.patch("live.consumers.own_files", side_effect=OperationalError("the connection is closed")):
                await self.say(socket, **self.show(file="ab" * 32))
                self.assertEqual(await self.closed_with(socket), TOO_SLOW)
            self.assertEqual(self.renderer.open_sessions, 0)

        self.run_story(story)
