import asyncio
import json
import os
import signal
from unittest import mock

from asgiref.testing import ApplicationCommunicator
from django.conf import settings
from django.contrib.auth.models import AnonymousUser
from django.test import SimpleTestCase, TransactionTestCase

from live.consumers import NOT_UNDERSTOOD, NOT_YOURS, TOO_LARGE, LivePicture
from live.messages import ASKED
from live.supervisor import MOST_DEATHS_OF_ONE, MOST_WISHES_A_MINUTE, Supervisor

PATIENCE_S = 90


def demo(name):
    return json.loads((settings.DEMO_DIR / f"{name}.json").read_text())


def show(sequence):
    document = {"material": demo("net-float"), "stage": demo("lamp-room")}
    return {
        "type": "show",
        "sequence": sequence,
        "inside": "",
        "settings": {"picture_side": 96, "most_samples": 2},
        **document,
    }


class Keeping(SimpleTestCase):
    """A real rendering process, without a browser."""

    async def heard(self, messages, wanted):
        async def look():
            while True:
                header = await messages.get()
                if wanted(header):
                    return header

        return await asyncio.wait_for(look(), PATIENCE_S)

    async def open(self, supervisor, person=None):
        messages = asyncio.Queue()

        async def hear(header, payload):
            await messages.put({**header, "bytes": len(payload)})

        session = await supervisor.open(hear, person=person)
        return session, messages

    def test_a_killed_renderer_is_started_again_and_shows_the_same(self):
        async def story():
            supervisor = Supervisor(linger_s=0)
            session, messages = await self.open(supervisor)
            try:
                await supervisor.say(session, show(4))
                while supervisor.process is None:
                    await asyncio.sleep(0.05)
                frame = await self.heard(messages, lambda h: h["type"] == "frame")
                self.assertEqual((frame["sequence"], frame["bytes"] > 500), (4, True))
                victim = supervisor.process.pid
                os.kill(victim, signal.SIGKILL)
                await self.heard(messages, lambda h: h["type"] == "restarted")
                again = await self.heard(messages, lambda h: h["type"] == "frame" and not h["coarse"])
                self.assertEqual(again["sequence"], 4)
                self.assertNotEqual(supervisor.process.pid, victim)
            finally:
                await supervisor.close(session)
            await self.until(lambda: supervisor.process is None)

        asyncio.run(story())

    async def until(self, comes_true):
        async def look():
            while not comes_true():
                await asyncio.sleep(0.02)

        await asyncio.wait_for(look(), PATIENCE_S)

    def test_a_renderer_that_hangs_is_ended_and_started_again(self):
        async def story():
            supervisor = Supervisor(linger_s=0)
            session, messages = await self.open(supervisor)
            try:
                await supervisor.say(session, show(1))
                await self.heard(messages, lambda h: h["type"] == "frame" and not h["coarse"])
                os.kill(supervisor.process.pid, signal.SIGSTOP)
                began = asyncio.get_running_loop().time()
                await self.heard(messages, lambda h: h["type"] == "restarted")
                self.assertLess(asyncio.get_running_loop().time() - began, 10)
                await self.heard(messages, lambda h: h["type"] == "frame")
            finally:
                await supervisor.close(session)
                await supervisor.end()

        asyncio.run(story())

    def test_a_document_that_the_renderer_ends_over_twice_is_set_aside(self):
        async def story():
            supervisor = Supervisor(linger_s=0)
            poisoned, heard = await self.open(supervisor)
            other, other_heard = await self.open(supervisor)
            try:
                await self.until(lambda: supervisor.process)
                await supervisor.say(poisoned, show(7))
                for _ in range(2):
                    await self.until(lambda: supervisor.process and supervisor._turn == (poisoned, 7))
                    os.kill(supervisor.process.pid, signal.SIGKILL)
                    await self.heard(heard, lambda h: h["type"] == "restarted")
                faults = await self.heard(heard, lambda h: h["type"] == "faults")
                self.assertEqual(faults["sequence"], 7)
                called_otherwise = {**show(8), "material": {**demo("net-float"), "name": "Called otherwise"}}
                await supervisor.say(poisoned, called_otherwise)
                self.assertEqual((await self.heard(heard, lambda h: h["type"] == "faults"))["sequence"], 8)
                await supervisor.say(other, {**show(1), "stage": demo("window-bench")})
                await self.heard(other_heard, lambda h: h["type"] == "frame" and not h["coarse"])
            finally:
                await supervisor.close(poisoned)
                await supervisor.close(other)
                await supervisor.end()

        asyncio.run(story())

    def test_a_person_over_whose_documents_it_ends_again_and_again_waits_and_others_do_not(self):
        async def story():
            supervisor = Supervisor(linger_s=0)
            turned, heard = await self.open(supervisor, person=1)
            other, other_heard = await self.open(supervisor, person=2)
            try:
                await self.until(lambda: supervisor.process)
                for k in range(MOST_DEATHS_OF_ONE):
                    shown = {**show(k + 1), "stage": {**demo("window-bench"), "turn": float(k)}}
                    await supervisor.say(turned, shown)
                    await self.until(lambda k=k: supervisor.process and supervisor._turn == (turned, k + 1))
                    os.kill(supervisor.process.pid, signal.SIGKILL)
                    await self.heard(heard, lambda h: h["type"] == "restarted")
                await supervisor.say(turned, {**show(9), "stage": demo("lamp-room")})
                told = await self.heard(heard, lambda h: h["type"] == "faults" and h["sequence"] == 9)
                self.assertIn("others work with it", told["faults"][0]["fault"])
                await supervisor.say(other, show(1))
                await self.heard(other_heard, lambda h: h["type"] == "frame" and not h["coarse"])
                with mock.patch("live.supervisor.FORGIVEN_AFTER_S", 0):
                    await supervisor.say(turned, show(10))
                    await self.heard(heard, lambda h: h["type"] == "frame" and h["sequence"] == 10)
            finally:
                await supervisor.close(turned)
                await supervisor.close(other)
                await supervisor.end()

        asyncio.run(story())

    def after_a_kill(self, wish: str, answer: str) -> tuple[dict, dict]:
        """What is told of a wish when the renderer is killed meanwhile, and what wishes are left."""

        async def story():
            supervisor = Supervisor(linger_s=0)
            session, messages = await self.open(supervisor)
            try:
                await self.until(lambda: supervisor.process)
                await supervisor.say(session, show(1))
                await supervisor.say(session, {"type": wish, "request": "r"})
                os.kill(supervisor.process.pid, signal.SIGKILL)
                told = await self.heard(messages, lambda h: h["type"] == answer)
                return told, dict(supervisor.sessions[session].wishes)
            finally:
                await supervisor.close(session)
                await supervisor.end()

        return asyncio.run(story())

    def test_a_wish_for_a_trial_ends_with_the_renderer_and_is_told(self):
        told, left = self.after_a_kill("keep_trial", "not_kept")
        self.assertEqual((told["request"], told["says"]), ("r", "its pictures are gone"))
        self.assertEqual(left, {})

    def test_a_wish_for_a_proof_outlives_the_renderer(self):
        told, _ = self.after_a_kill("keep", "proof")
        self.assertEqual(told["request"], "r")

    def test_what_was_wished_for_while_it_starts_is_asked_for_as_what_it_is(self):
        async def story():
            supervisor = Supervisor(linger_s=0)
            wishes = {"p": "keep", "t": "keep_trial"}
            supervisor.sessions["one"] = mock.Mock(shown=show(1), wishes=wishes)
            begins = mock.patch("asyncio.create_subprocess_exec", mock.AsyncMock())
            with begins, mock.patch.object(supervisor, "_tell", mock.AsyncMock()) as tell:
                await supervisor._start()
            told = [call.args[0] for call in tell.await_args_list]
            self.assertEqual({one["request"]: one["type"] for one in told if "request" in one}, wishes)

        asyncio.run(story())

    def test_wishes_for_proofs_are_bounded_by_the_minute(self):
        async def story():
            supervisor = Supervisor(linger_s=0)
            session, messages = await self.open(supervisor)
            try:
                for number in range(MOST_WISHES_A_MINUTE + 3):
                    await supervisor.say(session, {"type": "keep", "request": str(number)})
                refused = [(await self.heard(messages, lambda h: h["type"] == "not_kept"))["request"] for _ in range(3)]
                self.assertEqual(refused, [str(MOST_WISHES_A_MINUTE + k) for k in range(3)])
                self.assertEqual(len(supervisor.sessions[session].wishes), MOST_WISHES_A_MINUTE)
            finally:
                await supervisor.close(session)
                await supervisor.end()

        asyncio.run(story())

    def test_the_renderer_lingers_for_a_reload(self):
        async def story():
            supervisor = Supervisor(linger_s=30)
            session, _ = await self.open(supervisor)
            await self.until(lambda: supervisor.process)
            process = supervisor.process
            await supervisor.close(session)
            again, _ = await self.open(supervisor)
            self.assertIs(supervisor.process, process)
            await supervisor.close(again)
            await supervisor.end()
            self.assertIsNone(supervisor.process)

        asyncio.run(story())

    def test_two_benches_each_hear_their_own(self):
        async def story():
            supervisor = Supervisor(linger_s=0)
            first, first_heard = await self.open(supervisor)
            second, second_heard = await self.open(supervisor)
            try:
                await asyncio.sleep(0.5)
                await supervisor.say(first, show(1))
                await supervisor.say(second, show(2))
                a = await self.heard(first_heard, lambda h: h.get("settled"))
                b = await self.heard(second_heard, lambda h: h.get("settled"))
                self.assertEqual((a["sequence"], b["sequence"]), (1, 2))
                for heard, sequence in ((first_heard, 1), (second_heard, 2)):
                    while not heard.empty():
                        self.assertEqual(heard.get_nowait()["sequence"], sequence)
            finally:
                await supervisor.close(first)
                await supervisor.close(second)
                await supervisor.end()

        asyncio.run(story())


class Socket(TransactionTestCase):
    """What a browser may say; none of these starts a renderer."""

    def test_nobody_gets_in_unsigned(self):
        async def story():
            route = {"kwargs": {"material_id": "00000000-0000-0000-0000-000000000000"}}
            scope = {"type": "websocket", "path": "/live/", "user": AnonymousUser(), "url_route": route}
            socket = ApplicationCommunicator(LivePicture.as_asgi(), scope)
            await socket.send_input({"type": "websocket.connect"})
            self.assertEqual((await socket.receive_output(PATIENCE_S))["type"], "websocket.accept")
            return await socket.receive_output(PATIENCE_S)

        self.assertEqual(asyncio.run(story())["code"], NOT_YOURS)

    def said(self, text):
        """The code with which a signed-in bench is closed for saying something, or None."""
        consumer = LivePicture()
        consumer.session, codes = "open", []

        async def close(code=None, reason=None):
            codes.append(code)

        consumer.close, consumer.leave = close, mock.AsyncMock()
        asyncio.run(consumer.receive(text_data=text))
        return codes[0] if codes else None

    def test_what_is_not_understood_ends_the_bench(self):
        for text in ("{", "[]", '{"type": "dance"}', '{"type": "show"}', "7", "[" * 50_000):
            self.assertEqual(self.said(text), NOT_UNDERSTOOD, text[:40])
        wrong = {"type": "show", "sequence": "one", "material": {}, "stage": {}, "settings": {}, "inside": ""}
        self.assertEqual(self.said(json.dumps(wrong)), NOT_UNDERSTOOD)

    def test_what_is_too_large_ends_it_too(self):
        self.assertEqual(self.said("x" * 5_000_000), TOO_LARGE)

    def test_a_place_asked_about_lies_in_the_picture(self):
        for type in ("pick", "follow", "focus"):
            for right in (0, 0.5, 1):
                self.assertEqual(ASKED.validate_python({"type": type, "x": right, "y": 0}).x, right)
            for wrong in (-0.1, 1.1, float("nan"), "0.5", None, [0.5]):
                self.assertEqual(self.said(json.dumps({"type": type, "x": wrong, "y": 0})), NOT_UNDERSTOOD, wrong)

    def test_a_thousand_values_are_not_a_bracket(self):
        asked = {"type": "bracket", "module": "", "part": "a", "dial": "b", "values": [0] * 1000}
        self.assertEqual(self.said(json.dumps(asked)), NOT_UNDERSTOOD)
