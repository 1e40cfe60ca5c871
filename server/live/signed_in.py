"""Which sockets belong to which sign-in: they end with it."""

import asyncio
from collections import defaultdict

from asgiref.sync import async_to_sync
from django.contrib.auth.signals import user_logged_out
from django.contrib.sessions.models import Session
from django.dispatch import receiver
from django.utils import timezone

_sockets: dict[str, set] = defaultdict(set)


def join(session_key: str, socket) -> None:
    _sockets[session_key].add(socket)


def leave(session_key: str, socket) -> None:
    _sockets[session_key].discard(socket)
    if not _sockets[session_key]:
        del _sockets[session_key]


def lasts(session_key: str) -> bool:
    """Whether a sign-in is still good."""
    return Session.objects.filter(session_key=session_key, expire_date__gt=timezone.now()).exists()


@receiver(user_logged_out)
def _end_sockets(sender, request, **about) -> None:
    if sockets := list(_sockets.get(request.session.session_key, ())):
        async_to_sync(_sign_out)(sockets)


async def _sign_out(sockets: list) -> None:
    await asyncio.gather(*(socket.sign_out() for socket in sockets), return_exceptions=True)
