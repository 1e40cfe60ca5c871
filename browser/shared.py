"""What all browser tests share: one server with its renderer, one Chromium, and the demo as it is when it was filled in."""

import contextlib
import io
import os
import shutil
import socket
import subprocess
import sys
import tempfile
import time
import unittest
import urllib.request
from collections.abc import Callable
from functools import cache

from accounts.models import Preferences
from config.runner import at_the_end
from django.conf import settings
from django.contrib.auth import get_user_model
from django.core.management import call_command
from django.db import connection, transaction
from playwright.sync_api import Browser, BrowserContext, Page, sync_playwright

CHROMIUM = os.environ.get("CHROMIUM", "/usr/bin/chromium-headless-shell")
ARGUMENTS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
]
LANES = 2


def wait_for(holds: Callable[[], bool], says: str, patience_s: float = 60, every_s: float = 0.02) -> None:
    end = time.monotonic() + patience_s
    while not holds():
        if time.monotonic() > end:
            raise TimeoutError(says)
        time.sleep(every_s)


class Server:
    """A server process on the test's database, with files of its own."""

    def __init__(self, **environment: str):
        self.files = tempfile.mkdtemp(prefix="nineglass-test-")
        self.environment = {
            **os.environ,
            "PGDATABASE": connection.settings_dict["NAME"],
            "NINEGLASS_LOCAL": self.files,
            "NINEGLASS_PORTRAITS": "0",
            **environment,
        }
        with socket.socket() as listener:
            listener.bind(("127.0.0.1", 0))
            listener.listen(64)
            self.url = f"http://127.0.0.1:{listener.getsockname()[1]}"
            command = [sys.executable, "-m", "uvicorn", "config.asgi:application", "--fd", str(listener.fileno())]
            options = [
                "--no-proxy-headers",
                "--log-level",
                "error",
                "--ws-per-message-deflate",
                "false",
                "--timeout-graceful-shutdown",
                "2",
            ]
            self.process = subprocess.Popen(
                command + options,
                cwd=settings.BASE_DIR,
                env=self.environment | {"NINEGLASS_SERVES": "1"},
                stdin=subprocess.DEVNULL,
                pass_fds=[listener.fileno()],
            )
        self._wait_until_it_answers()

    def _wait_until_it_answers(self) -> None:
        def answers() -> bool:
            if self.process.poll() is not None:
                raise RuntimeError(f"the server ended with {self.process.returncode}")
            with contextlib.suppress(OSError):
                urllib.request.urlopen(self.url + "/sign-in/", timeout=5).close()
                return True
            return False

        wait_for(answers, "the server answers")

    def begin_worker(self, lanes: int = LANES) -> subprocess.Popen:
        command = [sys.executable, "manage.py", "work", "--lanes", str(lanes)]
        return subprocess.Popen(command, cwd=settings.BASE_DIR, env=self.environment, stdin=subprocess.DEVNULL)

    def stop(self) -> None:
        self.process.terminate()
        try:
            self.process.wait(10)
        except subprocess.TimeoutExpired:
            self.process.kill()
            self.process.wait()
        shutil.rmtree(self.files, ignore_errors=True)


@cache
def server() -> Server:
    made = Server()
    at_the_end(server.cache_clear)
    at_the_end(made.stop)
    return made


@cache
def chromium() -> Browser:
    playwright = sync_playwright().start()
    at_the_end(chromium.cache_clear)
    at_the_end(playwright.stop)
    browser = playwright.chromium.launch(executable_path=CHROMIUM, args=ARGUMENTS)
    at_the_end(browser.close)
    # Playwright leaves an event loop running in this thread, at which Django's ORM would take offence.
    os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"] = "1"
    return browser


def new_context(browser: Browser) -> BrowserContext:
    return browser.new_context(viewport={"width": 1280, "height": 800}, reduced_motion="reduce")


class Tab:
    """A tab that tests use one after another, so that the application's scripts are not read and compiled anew for each."""

    def __init__(self):
        self._page: Page | None = None

    def take(self) -> Page:
        """A blank page, in a context that knows nothing of the tests before."""
        if self._page is None or self._page.is_closed():
            self._page = new_context(chromium()).new_page()
        return self._page

    def give_back(self, url: str, as_new: bool) -> None:
        """url: of the server that it was at. as_new: whether nothing of it may be kept, as after a test that failed midway."""
        page, context = self._page, self._page.context
        if as_new or page.is_closed():
            context.close()
            self._page = None
            return
        for other in context.pages:
            if other is not page:
                other.close()
        page.unroute_all()
        # Left first: a page that finds itself signed out goes to the sign-in by itself, and the two ways there would break each other off.
        page.goto("about:blank")
        context.clear_cookies()
        page.goto(url + "/sign-in/")
        page.evaluate("localStorage.clear()")


tab = Tab()


_worker: subprocess.Popen | None = None


def keep_worker(of: Server) -> None:
    """Have a worker of a server until the tests of this module are done."""
    global _worker
    if _worker is None:
        _worker = of.begin_worker()
        unittest.addModuleCleanup(_end_worker)


def _end_worker() -> None:
    global _worker
    ended, _worker = _worker, None
    ended.kill()
    ended.wait()


def _is_quiet() -> bool:
    """Whether no other process is about to change the database."""
    with connection.cursor() as cursor:
        under_way = "datname = current_database() AND pid <> pg_backend_pid() AND xact_start IS NOT NULL"
        cursor.execute(f"SELECT count(*) FROM pg_stat_activity WHERE {under_way} AND backend_type = 'client backend'")
        return cursor.fetchone()[0] == 0


class Demo:
    """The tables of the database as they are when the demo has just been filled in, kept in a schema of their own."""

    SCHEMA = "demo_as_filled_in"
    LEFT_ALONE = ("django_migrations", "django_content_type", "auth_permission", "procrastinate_workers")
    """What is there without the demo, and what a worker at work says of itself."""

    BUT = {"procrastinate_jobs": " WHERE status <> 'doing'"}
    """A worker ends what it has in hand, and finds that it was removed."""

    def __init__(self):
        call_command("flush", verbosity=0, interactive=False)
        call_command("demo", stdout=io.StringIO())
        with connection.cursor() as cursor:
            cursor.execute("SELECT tablename FROM pg_tables WHERE schemaname = 'public' ORDER BY 1")
            self.tables = [name for (name,) in cursor.fetchall() if name not in self.LEFT_ALONE]
            cursor.execute(f"DROP SCHEMA IF EXISTS {self.SCHEMA} CASCADE; CREATE SCHEMA {self.SCHEMA}")
            self.filled = [
                name for name in self.tables if not self._is_of_the_queue(name) and self._has_rows(cursor, name)
            ]
            for name in self.filled:
                cursor.execute(f"CREATE TABLE {self.SCHEMA}.{name} AS TABLE public.{name}")

    @staticmethod
    def _is_of_the_queue(table: str) -> bool:
        """The demo has nothing in it: what stands there was put in by a worker that began meanwhile, and may be in hand still."""
        return table.startswith("procrastinate_")

    @staticmethod
    def _has_rows(cursor, table: str) -> bool:
        cursor.execute(f"SELECT EXISTS (SELECT 1 FROM public.{table})")
        return cursor.fetchone()[0]

    def take_away(self) -> None:
        """Leave the tables empty."""
        self._replace_by([])

    def put_back(self, **preferences) -> None:
        """Put the tables back as they were, and give everybody the same preferences."""
        self._replace_by(self.filled)
        people = get_user_model().objects.all()
        Preferences.objects.bulk_create(Preferences(owner=person, document=preferences) for person in people)

    def _replace_by(self, filled: list[str]) -> None:
        """Numbers of new rows go on from where they are, so that what a process still has in hand is never taken for another. No key is checked
        meanwhile: what was whole once is whole again."""
        wait_for(_is_quiet, "the server answers what was asked last")
        steps = ["SET LOCAL session_replication_role = replica"]
        steps += [f"DELETE FROM public.{name}{self.BUT.get(name, '')}" for name in self.tables]
        steps += [f"INSERT INTO public.{name} SELECT * FROM {self.SCHEMA}.{name}" for name in filled]
        with transaction.atomic(), connection.cursor() as cursor:
            cursor.execute("; ".join(steps))


@cache
def demo() -> Demo:
    return Demo()
