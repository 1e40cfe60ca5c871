import asyncio
from unittest import mock

from django.test import SimpleTestCase

from live.outbox import MOST_WAITING, Outbox


class Sending(SimpleTestCase):
    """One browser's messages; none of them waits for another browser."""

    def run_story(self, story):
        async def whole():
            self.sent, self.dropped, self.ended = [], 0, asyncio.Event()
            self.reads = asyncio.Event()

            async def hear(header, payload):
                await self.reads.wait()
                self.sent.append((header["type"], header.get("samples")))

            async def give_up():
                self.ended.set()

            async def drop():
                self.dropped += 1

            outbox = Outbox(hear, give_up, drop)
            try:
                await asyncio.wait_for(story(outbox), 30)
            finally:
                outbox.close()

        asyncio.run(whole())

    def test_of_frames_that_wait_the_newest_is_sent_and_the_others_are_told(self):
        async def story(outbox):
            await outbox.put({"type": "reading"}, b"")
            await asyncio.sleep(0)
            for samples in range(50):
                await outbox.put({"type": "frame", "samples": samples}, b"")
            await outbox.put({"type": "picked"}, b"")
            self.reads.set()
            while len(self.sent) < 3:
                await asyncio.sleep(0.001)
            self.assertEqual(self.sent, [("reading", None), ("frame", 49), ("picked", None)])
            self.assertEqual(self.dropped, 49)

        self.run_story(story)

    def test_a_browser_that_reads_nothing_is_given_up(self):
        async def story(outbox):
            for _ in range(MOST_WAITING + 2):
                await outbox.put({"type": "picked"}, b"")
            await self.ended.wait()

        self.run_story(story)

    def test_so_is_one_that_takes_too_long_over_one_message(self):
        async def story(outbox):
            await outbox.put({"type": "picked"}, b"")
            await self.ended.wait()

        with mock.patch("live.outbox.PATIENCE_S", 0.05):
            self.run_story(story)
