"""What is turned away before anything of it is stored: bodies that are too large, and those of people who are not signed in."""

import json
import re
from dataclasses import asdict

from django.conf import settings
from django.contrib.auth import SESSION_KEY
from django.contrib.sessions.backends.db import SessionStore
from django.http import parse_cookie
from library.services import room_for
from nineglass.describe import Fault
from nineglass.forms.imported import LARGEST_BYTES

from config.database import in_database

ANONYMOUS_BYTES = 64_000
"""Enough to sign in with."""

FRAME_BYTES = 10_000
"""What a form may have around its file."""

PATIENT_BYTES = 1_000_000_000
"""How long a body may be that is heard out only to be told that it is too large."""

FILES = re.compile(r"/api/(files/[a-z]+|handovers/in)$")


class BodyLimit:
    """ASGI middleware: a request says how long its body is, and is turned away by that."""

    def __init__(self, application):
        self.application = application

    async def __call__(self, scope, receive, send):
        if scope["type"] != "http" or scope["method"] in ("GET", "HEAD", "OPTIONS"):
            return await self.application(scope, receive, send)
        length = _length_of(scope)
        if length is None:
            return await _turn_away(send, 411, "Say how long the body is (Content-Length).")
        if length <= ANONYMOUS_BYTES:
            return await self.application(scope, receive, send)
        person = await in_database(_person)(scope)
        if person is None:
            return await _turn_away(send, 401, "Sign in first.")
        most = await in_database(_most_for)(person, scope["path"])
        if length > most:
            says = f"{length / 1e6:.1f} MB is too large; there is room for {most / 1e6:.1f} MB."
            if length <= PATIENT_BYTES:
                await _let_pass(receive)
            return await _turn_away(send, 413, says)
        return await self.application(scope, receive, send)


def _length_of(scope) -> int | None:
    headers = dict(scope["headers"])
    given = headers.get(b"content-length", b"" if b"transfer-encoding" in headers else b"0")
    return int(given) if given.isdigit() else None


def _person(scope) -> str | None:
    """The id of the person who is signed in."""
    cookies = parse_cookie(dict(scope["headers"]).get(b"cookie", b"").decode("latin-1"))
    key = cookies.get(settings.SESSION_COOKIE_NAME)
    return SessionStore(key).get(SESSION_KEY) if key else None


def _most_for(person: str, path: str) -> int:
    if not FILES.match(path):
        return settings.DATA_UPLOAD_MAX_MEMORY_SIZE
    return min(LARGEST_BYTES, room_for(person)) + FRAME_BYTES


async def _let_pass(receive) -> None:
    """Hear a body out without keeping it: a browser reads the answer only after it has sent all."""
    while (message := await receive())["type"] == "http.request" and message.get("more_body"):
        pass


async def _turn_away(send, status: int, says: str) -> None:
    faults = [asdict(Fault("file", says, "a smaller body", "Choose a smaller file."))]
    body = json.dumps({"detail": says, "faults": faults}).encode()
    headers = [(b"content-type", b"application/json"), (b"connection", b"close")]
    await send({"type": "http.response.start", "status": status, "headers": headers})
    await send({"type": "http.response.body", "body": body})
