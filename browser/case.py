"""A test case with a real server process (uvicorn, on the test database) and Chromium."""

import io
import os
import shutil
import socket
import subprocess
import sys
import tempfile
import time
import urllib.request
from collections.abc import Callable
from pathlib import Path

import numpy as np
from accounts.models import Entry
from django.conf import settings
from django.contrib.auth import get_user_model
from django.core.management import CommandError, call_command
from django.db import connection
from django.test import TransactionTestCase
from PIL import Image
from playwright.sync_api import expect, sync_playwright

CHROMIUM = os.environ.get("CHROMIUM", "/usr/bin/chromium")
ARGUMENTS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
]
PATIENCE_MS = 150_000
expect.set_options(timeout=PATIENCE_MS)


class BrowserCase(TransactionTestCase):
    """`self.page` is signed in as the demo person and on the Bench; errors in the console fail the test."""

    makes_portraits = False
    """Whether pictures of materials are made behind."""

    has_worker = False
    """Whether a worker makes final pictures."""

    @classmethod
    def setUpClass(cls):
        super().setUpClass()
        cls.files = tempfile.mkdtemp(prefix="nineglass-test-")
        cls.addClassCleanup(shutil.rmtree, cls.files, ignore_errors=True)
        cls.start_server()
        if cls.has_worker:
            worker = cls.start_worker()
            cls.addClassCleanup(worker.wait)
            cls.addClassCleanup(worker.kill)
        playwright = sync_playwright().start()
        cls.addClassCleanup(playwright.stop)
        cls.browser = playwright.chromium.launch(executable_path=CHROMIUM, args=ARGUMENTS)
        cls.addClassCleanup(cls.browser.close)
        # Playwright leaves an event loop running in this thread, at which Django's ORM would take offence.
        os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"] = "1"
        cls.addClassCleanup(os.environ.pop, "DJANGO_ALLOW_ASYNC_UNSAFE", None)

    @classmethod
    def environment(cls) -> dict:
        """Of processes that work on the test's database and files."""
        return {**os.environ, "PGDATABASE": connection.settings_dict["NAME"], "NINEGLASS_LOCAL": cls.files}

    @classmethod
    def start_worker(cls, lanes: int = 2) -> subprocess.Popen:
        command = [sys.executable, "manage.py", "work", "--lanes", str(lanes)]
        return subprocess.Popen(command, cwd=settings.BASE_DIR, env=cls.environment(), stdin=subprocess.DEVNULL)

    @classmethod
    def start_server(cls):
        environment = cls.environment()
        environment["NINEGLASS_PORTRAITS"] = str(int(cls.makes_portraits))
        with socket.socket() as listener:
            listener.bind(("127.0.0.1", 0))
            listener.listen(64)
            cls.url = f"http://127.0.0.1:{listener.getsockname()[1]}"
            command = [sys.executable, "-m", "uvicorn", "config.asgi:application", "--fd", str(listener.fileno())]
            options = ["--log-level", "error", "--ws-per-message-deflate", "false", "--timeout-graceful-shutdown", "2"]
            cls.server = subprocess.Popen(
                command + options,
                cwd=settings.BASE_DIR,
                env=environment,
                stdin=subprocess.DEVNULL,
                pass_fds=[listener.fileno()],
            )
        cls.addClassCleanup(cls.stop_server)
        for _ in range(400):
            if cls.server.poll() is not None:
                raise RuntimeError(f"the server ended with {cls.server.returncode}")
            try:
                urllib.request.urlopen(cls.url + "/sign-in/", timeout=5).close()
                return
            except OSError:
                time.sleep(0.05)
        raise RuntimeError("the server did not answer")

    @classmethod
    def stop_server(cls):
        cls.server.terminate()
        try:
            cls.server.wait(10)
        except subprocess.TimeoutExpired:
            cls.server.kill()
            cls.server.wait()

    def setUp(self):
        super().setUp()
        call_command("demo", stdout=io.StringIO())
        self.person = get_user_model().objects.get(username="keeper")
        self.errors: list[str] = []
        # Closed before Django empties the tables: open requests would hold locks.
        self.context = self.new_context()
        self.page = self.open_bench()

    def new_context(self):
        """A browser of its own."""
        context = self.browser.new_context(viewport={"width": 1280, "height": 800}, reduced_motion="reduce")
        self.addCleanup(context.close)
        return context

    def tearDown(self):
        self.assertEqual(self.errors, [])
        super().tearDown()

    def _fixture_teardown(self):
        """Empty the tables. What the server still answers may lock them the other way round: then once more."""
        try:
            super()._fixture_teardown()
        except CommandError:
            super()._fixture_teardown()

    def open_bench(self, person=None, context=None):
        """A new tab on the Bench, its first picture drawn; of the demo person when no other is given."""
        page = (context or self.context).new_page()
        page.set_default_timeout(PATIENCE_MS)
        page.on("pageerror", lambda error: self.errors.append(f"page: {error}"))
        page.on("console", lambda said: self.errors.append(f"console: {said.text}") if said.type == "error" else None)
        page.goto(f"{self.url}/enter/{Entry.issue(person or self.person)}/")
        self.wait_for_picture(page)
        return page

    def wait_for_picture(self, page=None, samples: int = 1):
        """Wait until the picture of the newest change has some samples."""
        (page or self.page).wait_for_function(
            """samples => { const c = document.querySelector('[data-testid=picture]');
            return c && c.dataset.coarse === 'false' && +c.dataset.samples >= samples
              && ![...document.querySelectorAll('span')].some(s => s.textContent === 'behind') }""",
            arg=samples,
        )

    def change(self, act, samples: int = 2):
        """Do something that changes the picture, and wait for the picture of it."""
        before = int(self.page.locator("[data-testid=picture]").get_attribute("data-sequence"))
        act()
        self.page.wait_for_function(
            """([before, samples]) => { const c = document.querySelector('[data-testid=picture]').dataset;
            return +c.sequence > before && c.coarse === 'false' && +c.samples >= samples }""",
            arg=[before, samples],
        )
        self.wait_for_picture(samples=samples)

    def until(self, holds: Callable[[], bool], says: str):
        """Wait for what the page cannot tell, such as what a file has in it."""
        end = time.monotonic() + PATIENCE_MS / 1000
        while not holds():
            self.assertLess(time.monotonic(), end, says)
            self.page.wait_for_timeout(100)

    def pixels(self) -> np.ndarray:
        """(side, side, 3) of the picture as it is on the canvas, 0 to 1."""
        url = self.page.evaluate("document.querySelector('[data-testid=picture]').toDataURL('image/png')")
        import base64

        data = base64.b64decode(url.partition(",")[2])
        return np.asarray(Image.open(io.BytesIO(data)).convert("RGB"), float) / 255

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
                if int(parent) == self.server.pid and b"live.renderer" in (entry / "cmdline").read_bytes():
                    found.append(int(entry.name))
            except (OSError, ValueError, IndexError):
                continue
        return found
