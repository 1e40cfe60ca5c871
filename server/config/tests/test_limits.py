import asyncio
import json
from unittest import mock

from accounts.models import MOST_WRONG
from asgiref.testing import ApplicationCommunicator
from django.conf import settings
from django.contrib.auth import get_user_model
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client, TestCase, TransactionTestCase, override_settings
from library.models import KeptFile

from config.asgi import application
from config.limits import ANONYMOUS_BYTES, BodyLimit
from config.origin import SameOrigin

DEMO = settings.DEMO_DIR
VERSION_1 = settings.ROOT / "core" / "tests" / "version_1"
MB = 1_000_000
STL = b"\0" * 80 + b"\1\0\0\0" + b"\0" * 12 + b"".join(bytes(12) for _ in range(3)) + b"\0\0"


async def nothing_heard():
    raise AssertionError("the body was heard")


class BodiesTurnedAway(TransactionTestCase):
    """What is too large is turned away by its length, before the application hears of it."""

    def setUp(self):
        self.client = Client()
        self.person = get_user_model().objects.create_user("keeper")

    def answer(self, length, path="/api/files/mesh", chunked=False, hears=False):
        """(status, what the application was asked) of a body of some length."""
        sent, reached = [], []

        async def app(scope, receive, send):
            reached.append(scope["path"])

        async def send(message):
            sent.append(message)

        async def receive():
            if not hears:
                raise AssertionError("the body was heard")
            return {"type": "http.request", "body": b"", "more_body": False}

        cookies = "; ".join(f"{name}={one.value}" for name, one in self.client.cookies.items())
        length_header = (b"transfer-encoding", b"chunked") if chunked else (b"content-length", str(length).encode())
        headers = [(b"cookie", cookies.encode()), length_header]
        scope = {"type": "http", "method": "POST", "path": path, "headers": headers}
        asyncio.run(BodyLimit(app)(scope, receive, send))
        return (sent[0]["status"] if sent else None), reached

    def test_somebody_who_is_not_signed_in_may_sign_in_and_no_more(self):
        self.assertEqual(self.answer(400 * MB), (401, []))
        self.assertEqual(self.answer(ANONYMOUS_BYTES), (None, ["/api/files/mesh"]))

    def test_a_session_that_ended_is_no_session(self):
        self.client.force_login(self.person)
        self.client.logout()
        self.client.cookies["nineglass_session"] = "a" * 32
        self.assertEqual(self.answer(MB)[0], 401)

    def test_a_person_has_room_for_so_much(self):
        self.client.force_login(self.person)
        self.assertEqual(self.answer(200 * MB), (None, ["/api/files/mesh"]))
        self.assertEqual(self.answer(200 * MB, "/api/handovers/in"), (None, ["/api/handovers/in"]))
        self.assertEqual(self.answer(320 * MB, hears=True), (413, []))
        with override_settings(MOST_FILE_MB=100):
            self.assertEqual(self.answer(200 * MB, hears=True), (413, []))
        with override_settings(MOST_FILES=0):
            self.assertEqual(self.answer(MB, hears=True), (413, []))

    def test_documents_are_smaller_than_files(self):
        self.client.force_login(self.person)
        self.assertEqual(self.answer(5 * MB, "/api/materials", hears=True), (413, []))
        self.assertEqual(self.answer(MB, "/api/materials"), (None, ["/api/materials"]))

    def test_a_body_says_how_long_it_is(self):
        self.client.force_login(self.person)
        self.assertEqual(self.answer(0, chunked=True), (411, []))


@override_settings(ALLOWED_HOSTS=["127.0.0.1"])
class Origins(TestCase):
    def opens(self, host, origin):
        async def story():
            async def app(scope, receive, send):
                await send({"type": "websocket.accept"})

            headers = [(b"host", host.encode())] + ([(b"origin", origin.encode())] if origin else [])
            socket = ApplicationCommunicator(SameOrigin(app), {"type": "websocket", "path": "/", "headers": headers})
            await socket.send_input({"type": "websocket.connect"})
            return (await socket.receive_output(5))["type"] == "websocket.accept"

        return asyncio.run(story())

    def test_a_socket_is_opened_by_a_page_of_its_own_host_and_port(self):
        self.assertTrue(self.opens("127.0.0.1:8420", "http://127.0.0.1:8420"))
        for origin in (
            "http://127.0.0.1:1",
            "http://127.0.0.1",
            "http://evil.example",
            "null",
            "",
            "http://127.0.0.1:8420.evil.example",
            "http://[",
            "file://127.0.0.1:8420",
        ):
            self.assertFalse(self.opens("127.0.0.1:8420", origin), origin)

    def test_and_only_at_a_host_of_ours(self):
        self.assertFalse(self.opens("evil.example", "http://evil.example"))

    def test_the_application_is_behind_both(self):
        self.assertIsInstance(application.application_mapping["http"], BodyLimit)
        self.assertIsInstance(application.application_mapping["websocket"], SameOrigin)


class Answers(TestCase):
    def setUp(self):
        self.person = get_user_model().objects.create_user("keeper")
        self.client.force_login(self.person)
        self.client.raise_request_exception = False

    def test_what_cannot_be_kept_is_a_fault_of_its_field(self):
        deep = "[" * 100 + "]" * 100
        for name, raw in (
            ("NUL", '"name": "a\\u0000b"'),
            ("surrogate", '"name": "\\ud800"'),
            ("large", f'"slips": [{{"id": "a", "kind": "number", "dials": {{"value": 1{"0" * 400}}}}}]'),
            ("not a number", '"slips": [{"id": "a", "kind": "number", "dials": {"value": NaN}}]'),
            ("deep", f'"slips": [{{"id": "a", "kind": "number", "dials": {{"value": {deep}}}}}]'),
        ):
            body = f'{{"document": {{"section": {{"bands": [{{"id": "i", "kind": "interface"}}]}}, {raw}}}}}'
            refused = self.client.post("/api/materials", body, "application/json")
            self.assertEqual(refused.status_code, 422, (name, refused.content))
            self.assertTrue(refused.json()["faults"][0]["path"].startswith("document."), refused.content)

    def test_what_breaks_is_told_with_the_number_that_the_log_has(self):
        broken = mock.patch("library.api.substances", side_effect=RuntimeError("broken"))
        with broken, self.assertLogs("config.api", "ERROR") as logged:
            answer = self.client.get("/api/substances")
        self.assertEqual(answer.status_code, 500)
        number = answer.json()["says"].rstrip(".").split()[-1]
        self.assertIn(number, logged.output[0])
        self.assertNotIn("Traceback", answer.content.decode())

    def test_a_curve_of_one_long_line_is_refused(self):
        for text in ("1" * 499_000, '400,"1\n500,1\n' * 30_000):
            answer = self.client.post("/api/curves", {"text": text}, "application/json")
            self.assertEqual(answer.status_code, 422, answer.content[:100])

    def test_a_file_is_its_owner_s_also_by_name(self):
        other = get_user_model().objects.create_user("stranger")
        file = KeptFile.objects.create(owner=other, sha256="ab" * 32, kind="mesh", name="x", bytes=1, facts={})
        form = {"kind": "imported", "dials": {"file": file.sha256}}
        stage = json.loads((DEMO / "lamp-room.json").read_text())
        stage["objects"][0]["form"] = form
        refused = self.client.post("/api/stages", {"document": stage}, "application/json")
        self.assertEqual(refused.status_code, 422)
        self.assertEqual(refused.json()["faults"][0]["path"], "objects[0].form.dials.file")

    def test_nobody_keeps_documents_without_end(self):
        stage = json.loads((DEMO / "lamp-room.json").read_text())
        with override_settings(MOST_DOCUMENTS=2):
            codes = [
                self.client.post("/api/stages", {"document": stage}, "application/json").status_code for _ in range(3)
            ]
        self.assertEqual(codes, [201, 201, 422])

    def test_a_file_for_which_there_is_no_room_is_refused(self):
        with override_settings(MOST_FILE_MB=0):
            refused = self.client.post("/api/files/mesh", {"file": SimpleUploadedFile("a.stl", STL)})
        self.assertEqual(refused.status_code, 422)
        self.assertIn("room", refused.json()["faults"][0]["fault"])

    def test_a_full_disk_is_told(self):
        full = mock.patch("library.services.for_now", side_effect=OSError(28, "No space left on device"))
        with full:
            refused = self.client.post("/api/files/mesh", {"file": SimpleUploadedFile("a.stl", STL)})
        self.assertEqual(refused.status_code, 422)
        self.assertIn("No space left", refused.json()["faults"][0]["fault"])

    def test_a_draft_of_an_older_version_is_brought_up_with_a_report(self):
        old = json.loads((VERSION_1 / "lamp-room.json").read_text())
        material = {"section": {"bands": [{"id": "i", "kind": "interface"}]}}
        answer = self.client.post("/api/stages/draft", {"material": material, "stage": old}, "application/json")
        self.assertEqual(answer.status_code, 200, answer.content)
        self.assertEqual(answer.json()["stage"]["version"], 2)
        self.assertTrue(answer.json()["report"])


class WrongPasswords(TestCase):
    def setUp(self):
        get_user_model().objects.create_user("keeper", password="salt-and-lamp-oil")

    def enter(self, password, **about):
        return self.client.post("/sign-in/", {"username": "keeper", "password": password}, **about).status_code

    def test_after_some_of_them_one_has_to_wait(self):
        codes = [self.enter(f"wrong{n}") for n in range(MOST_WRONG + 3)]
        self.assertEqual(codes, [200] * MOST_WRONG + [429] * 3)
        self.assertEqual(self.enter("salt-and-lamp-oil"), 429)

    def test_somebody_elsewhere_need_not_wait_for_it(self):
        for n in range(MOST_WRONG + 1):
            self.enter(f"wrong{n}")
        self.assertEqual(self.enter("salt-and-lamp-oil", REMOTE_ADDR="127.0.0.2"), 302)

    def test_a_name_with_nul_is_only_wrong(self):
        answer = self.client.post("/sign-in/", {"username": "a\0b", "password": "x"})
        self.assertEqual(answer.status_code, 200)
