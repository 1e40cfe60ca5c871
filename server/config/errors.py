"""Errors of ours: a person is told a number, and the log has the error under it. Nothing of Django is imported here."""

import logging
import secrets


def logged(log: logging.Logger, error: Exception, doing: str) -> str:
    """Write an error to the log; returns its number there."""
    number = secrets.token_hex(4)
    log.error("%s: %s", number, doing, exc_info=error)
    return number
