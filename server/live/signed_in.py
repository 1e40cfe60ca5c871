"""Which sockets belong to which sign-in: they end with it."""

import asyncio
from collections import defaultdict

from asgiref.sync import async_to_sync
from django.contrib.auth import get_user
from django.contrib.auth.signals import user_logged_out
from django.contrib.sessions.backends.db import SessionStore
from django.dispatch import receiver
from django.http import HttpRequest

_sockets: dict[str, set] = defaultdict(set)


def join(session_key: str, socket) -> None:
    _sockets[session_key].add(socket)


def leave(session_key: str, socket) -> None:
    _sockets[session_key].discard(socket)
    if not _sockets[session_key]:
        del _sockets[session_key]


def lasts(session_key: str) -> bool:
    """Whether a sign-in is still good: not signed out or too old, its person active, its password still that with which it began."""
    request = HttpRequest()
    request.session = SessionStore(session_key)
    return get_user(request).is_authenticated


@receiver(user_logged_out)
def _end_sockets(sender, request, **about) -> None:
    if sockets := list(_sockets.get(request.session.session_key, ())):
        async_to_sync(_sign_out)(sockets)


async def _sign_out(sockets: list) -> None:
    await asyncio.gather(*(socket.sign_out() for socket in sockets), return_exceptions=True)
