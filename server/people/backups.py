"""A backup of everything that people keep: the database and its files, as they are at one moment, while people work; and putting it back."""

import json
import os
import shutil
import subprocess
from datetime import UTC, datetime
from hashlib import file_digest
from pathlib import Path

from django.apps import apps
from django.conf import settings
from django.core.management import CommandError, call_command
from django.db import connection, transaction
from django.db.models import FileField
from library.models import KeptFile

FORMAT, VERSION = "nineglass.backup", 1
TOLD, DUMP, FILES = "backup.json", "database.dump", "files"
UNFINISHED = "coming-"


def backup(folder: Path) -> dict:
    """Write a backup into an empty folder, hold it against what it is of, and give what is told of it."""
    folder.mkdir(parents=True, exist_ok=True)
    if any(folder.iterdir()):
        raise CommandError(f"{folder} is not empty: name a new folder.")
    # Files never change under their name. Those that go while the database is written were copied before it, those that come are copied after.
    _copy_new(Path(settings.MEDIA_ROOT), folder / FILES)
    with transaction.atomic(), connection.cursor() as cursor:
        cursor.execute("SET TRANSACTION ISOLATION LEVEL REPEATABLE READ")
        cursor.execute("SELECT pg_export_snapshot()")
        [snapshot] = cursor.fetchone()
        named, rows = _named_files(), _rows()
        _run(
            "pg_dump",
            "--format=custom",
            f"--snapshot={snapshot}",
            f"--file={folder / DUMP}",
            connection.settings_dict["NAME"],
        )
    _copy_new(Path(settings.MEDIA_ROOT), folder / FILES)
    told = {
        "format": FORMAT,
        "version": VERSION,
        "made_at": datetime.now(UTC).isoformat(timespec="seconds"),
        "rows": rows,
        "files": len(named),
        "missing": sorted(name for name in named if not (folder / FILES / name).is_file()),
        "settings": sorted(name for name in os.environ if name.startswith("NINEGLASS_")),
    }
    (folder / TOLD).write_text(json.dumps(told, indent=1))
    _check(folder)
    return told


def restore(folder: Path) -> dict:
    """Put everything back as a backup has it, in place of what is there; one of an older version is brought up."""
    told = _check(folder)
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT count(*) FROM pg_stat_activity WHERE datname = current_database() AND pid <> pg_backend_pid()"
        )
        if cursor.fetchone()[0]:
            raise CommandError("The database is in use: stop the server and its workers first.")
        cursor.execute("DROP SCHEMA public CASCADE; CREATE SCHEMA public")
    connection.close()
    name = connection.settings_dict["NAME"]
    _run("pg_restore", "--no-owner", "--schema=public", "--exit-on-error", f"--dbname={name}", str(folder / DUMP))
    _copy_new(folder / FILES, Path(settings.MEDIA_ROOT))
    found = {table: count for table, count in _rows().items() if table in told["rows"]}
    if wrong := {table for table, count in told["rows"].items() if found.get(table, count) != count}:
        raise CommandError(f"These tables are not as they were: {', '.join(sorted(wrong))}.")
    call_command("migrate", verbosity=0, interactive=False)
    return told


def _check(folder: Path) -> dict:
    """What is told of a backup that is whole."""
    try:
        told = json.loads((folder / TOLD).read_text())
    except (OSError, ValueError):
        raise CommandError(f"{folder} is no backup: there is no {TOLD} that can be read.") from None
    if told.get("format") != FORMAT or told.get("version") != VERSION:
        raise CommandError(f"{folder} is no backup that this version reads.")
    _run("pg_restore", "--list", str(folder / DUMP))
    for path in (folder / FILES / "put-in").rglob("*"):
        if path.is_file() and len(path.name) == 64:
            with path.open("rb") as file:
                if file_digest(file, "sha256").hexdigest() != path.name:
                    raise CommandError(f"{path} is not what it was.")
    return told


def _rows() -> dict[str, int]:
    """How many there are in each table of ours."""
    with connection.cursor() as cursor:
        there = set(connection.introspection.table_names(cursor))
    models = (one for one in apps.get_models() if one._meta.managed and one._meta.db_table in there)
    return {one._meta.db_table: one._base_manager.count() for one in models}


def _named_files() -> set[str]:
    """Every file that a row names, below the folder of files."""
    names = {f"put-in/{name[:2]}/{name}" for name in KeptFile.objects.values_list("sha256", flat=True)}
    for model in apps.get_models():
        for field in model._meta.get_fields():
            if isinstance(field, FileField):
                names.update(model._base_manager.exclude(**{field.name: ""}).values_list(field.name, flat=True))
    return names - {None}


def _copy_new(of: Path, to: Path) -> None:
    """Copy the files that are not there yet; one that goes meanwhile is nobody's any more."""
    to.mkdir(parents=True, exist_ok=True)
    for path in of.rglob("*"):
        copy = to / path.relative_to(of)
        if path.name.startswith(UNFINISHED) or not path.is_file() or copy.exists():
            continue
        copy.parent.mkdir(parents=True, exist_ok=True)
        unfinished = copy.with_name(UNFINISHED + copy.name)
        try:
            shutil.copy2(path, unfinished)
        except FileNotFoundError:
            continue
        unfinished.replace(copy)


def _run(program: str, *arguments: str) -> None:
    place = connection.settings_dict
    environment = {"PGHOST": place["HOST"], "PGPORT": str(place["PORT"]), "PGUSER": place["USER"]}
    found = sorted(Path("/usr/lib/postgresql").glob(f"*/bin/{program}"))
    done = subprocess.run(
        [found[-1] if found else program, *arguments],
        env=os.environ | environment,
        capture_output=True,
        text=True,
        check=False,
    )
    if done.returncode:
        raise CommandError(f"{program}: {done.stderr.strip()[-500:]}")
