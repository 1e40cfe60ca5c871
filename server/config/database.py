"""Asking the database from coroutines."""

from collections.abc import Callable

from channels.db import database_sync_to_async


def in_database(ask: Callable) -> Callable:
    """A coroutine function that asks on a thread of its own: whoever waits for the database keeps nobody else waiting."""
    return database_sync_to_async(ask, thread_sensitive=False)
