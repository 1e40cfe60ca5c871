"""A test case with a real server process and Chromium, on the test database with the demo."""

import base64
import io
import time
from collections.abc import Callable
from pathlib import Path

import numpy as np
from accounts.models import Entry
from django.conf import settings
from django.contrib.auth import get_user_model
from django.test import TransactionTestCase
from PIL import Image
from playwright.sync_api import expect

from browser import shared

PATIENCE_MS = 150_000
expect.set_options(timeout=PATIENCE_MS)

LOOKS_EVERY_MS = 40
"""How often the page is asked for a picture: at every frame, it would be drawing frames for the question's sake."""

SIDE = 480
"""Along the longer side of the picture, in the places that tests name."""


class BrowserCase(TransactionTestCase):
    """`self.page` is signed in as the demo person and on the Bench; errors in the console fail the test."""

    picture_side = 96
    """Pixels along the longer side of the live picture. What a test reads of it is read on a canvas of `SIDE`, whatever this is."""

    most_samples = 4
    """At which the live picture rests."""

    makes_portraits = False
    """Whether pictures of materials are made behind, by a server of the class's own."""

    has_worker = False
    """Whether a worker makes final pictures."""

    has_own_server = False
    """Whether what a test does to processes would disturb others."""

    @classmethod
    def setUpClass(cls):
        super().setUpClass()
        cls.browser = shared.chromium()
        if cls.makes_portraits or cls.has_own_server:
            cls.server = shared.Server(NINEGLASS_PORTRAITS=str(int(cls.makes_portraits)))
            cls.addClassCleanup(cls.server.stop)
        else:
            cls.server = shared.server()
        cls.url = cls.server.url
        if cls.has_worker:
            shared.keep_worker(cls.server)

    def _fixture_teardown(self):
        """The next test puts the tables back."""

    @classmethod
    def tearDownClass(cls):
        super().tearDownClass()
        shared.demo().take_away()

    def setUp(self):
        super().setUp()
        shared.demo().put_back(picture_side=self.picture_side, most_samples=self.most_samples)
        self.person = get_user_model().objects.get(username="keeper")
        self.prepare()
        self.errors: list[str] = []
        # Left before the next test puts the tables back.
        blank = shared.tab.take()
        self.addCleanup(
            lambda: shared.tab.give_back(self.url, as_new=bool(self._outcome and not self._outcome.success))
        )
        self.context = blank.context
        self.page = self.open_bench(page=blank)

    def prepare(self):
        """Put beside the demo what is to be there before the page is opened."""

    def new_context(self):
        """A browser of its own."""
        context = shared.new_context(self.browser)
        self.addCleanup(context.close)
        return context

    def tearDown(self):
        self.assertEqual(self.errors, [])
        super().tearDown()

    def open_bench(self, person=None, context=None, page=None):
        """A new tab on the Bench, its first picture drawn; of the demo person when no other is given."""
        page = page or (context or self.context).new_page()
        page.set_default_timeout(PATIENCE_MS)
        self.listen(page, "pageerror", lambda error: self.errors.append(f"page: {error}"))
        self.listen(page, "console", self._note_error)
        page.goto(f"{self.url}/enter/{Entry.issue(person or self.person)}/")
        self.wait_for_picture(page)
        return page

    def listen(self, page, event: str, hear: Callable) -> None:
        page.on(event, hear)
        self.addCleanup(page.remove_listener, event, hear)

    def _note_error(self, said) -> None:
        if said.type == "error":
            self.errors.append(f"console: {said.text}")

    def wait_for_picture(self, page=None, samples: int = 1):
        """Wait until the picture of the newest change has some samples."""
        (page or self.page).wait_for_function(
            """samples => { const c = document.querySelector('[data-testid=picture]');
            return c && c.dataset.coarse === 'false' && +c.dataset.samples >= samples
              && ![...document.querySelectorAll('span')].some(s => s.textContent === 'behind') }""",
            arg=samples,
            polling=LOOKS_EVERY_MS,
        )

    def wait_until_settled(self):
        """Wait until no frame comes any more: the last one is the only one that is packed without loss."""
        self.page.locator("[data-testid=picture][data-settled=true]").wait_for()

    def change(self, act, samples: int = 2):
        """Do something that changes the picture, and wait for the picture of it."""
        before = int(self.page.locator("[data-testid=picture]").get_attribute("data-sequence"))
        act()
        self.page.wait_for_function(
            """([before, samples]) => { const c = document.querySelector('[data-testid=picture]').dataset;
            return +c.sequence > before && c.coarse === 'false' && +c.samples >= samples }""",
            arg=[before, samples],
            polling=LOOKS_EVERY_MS,
        )
        self.wait_for_picture(samples=samples)

    def until(self, holds: Callable[[], bool], says: str):
        """Wait for what the page cannot tell, such as what a file has in it."""
        end = time.monotonic() + PATIENCE_MS / 1000
        while not holds():
            self.assertLess(time.monotonic(), end, says)
            self.page.wait_for_timeout(100)

    def pixels(self) -> np.ndarray:
        """(side, side, 3) of the picture as it is on the canvas, 0 to 1, its longer side scaled up to `SIDE` as the page scales it."""
        url = self.page.evaluate("document.querySelector('[data-testid=picture]').toDataURL('image/png')")
        picture = Image.open(io.BytesIO(base64.b64decode(url.partition(",")[2]))).convert("RGB")
        share = SIDE / max(picture.size)
        size = [round(share * pixels) for pixels in picture.size]
        return np.asarray(picture.resize(size, Image.Resampling.NEAREST), float) / 255

    def serious_findings(self) -> list[str]:
        """What stands in the way of assistive technology. Source: WCAG 2.2 AA as checked by axe-core."""
        self.page.evaluate((settings.ROOT / "web/node_modules/axe-core/axe.min.js").read_text())
        found = self.page.evaluate("axe.run(document, {runOnly: ['wcag2a', 'wcag2aa', 'wcag22aa']})")
        return [f"{v['id']}: {v['nodes'][0]['html'][:400]}" for v in found["violations"]]

    def go(self, place: str):
        """To another place: Bench, Stage, Library."""
        self.page.get_by_role("navigation", name="Places").get_by_role("link", name=place).click()

    def band(self, title: str):
        return self.page.get_by_role("region", name=title, exact=True)

    def find(self, words: str):
        """Type into the finder and take the first that is found."""
        field = self.page.get_by_role("textbox", name="Find")
        field.fill(words)
        self.page.locator("[aria-label=Found] li[aria-current=true] button").wait_for()
        self.page.keyboard.press("Enter")
        field.wait_for(state="detached")

    def place(self, words: str):
        self.page.keyboard.press("/")
        self.find(words)

    def type_into(self, dial, text: str):
        """Type a value into a dial by the keyboard."""
        dial.focus()
        self.page.keyboard.press("Enter")
        self.page.keyboard.press("Control+a")
        self.page.keyboard.type(text)
        self.page.keyboard.press("Enter")

    def renderers(self) -> list[int]:
        """Process ids of this server's renderers."""
        found = []
        for entry in Path("/proc").iterdir():
            try:
                parent = (entry / "stat").read_text().rpartition(")")[2].split()[1]
                if int(parent) == self.server.process.pid and b"live.renderer" in (entry / "cmdline").read_bytes():
                    found.append(int(entry.name))
            except (OSError, ValueError, IndexError):
                continue
        return found


class PixelCase(BrowserCase):
    """Its tests read pixels of the live picture."""

    picture_side = 120
