"""The secret key of a person's own machine."""

import os
import secrets
from pathlib import Path


def local_secret(path: Path) -> str:
    """The key kept at a path, made on first use, readable by its owner only."""
    try:
        return path.read_text().strip()
    except FileNotFoundError:
        path.parent.mkdir(parents=True, exist_ok=True)
        key = secrets.token_urlsafe(50)
        try:
            handle = os.open(path, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600)
        except FileExistsError:
            return path.read_text().strip()
        with os.fdopen(handle, "w") as out:
            out.write(key)
        return key
