"""Two workers, the server and the database, killed (-9) in mid-work, again and again: no sample of a final picture is lost, none counts twice.

    tools/kills.py 50

On a database and files of its own, in a new folder. Says at the end whether the sums are those that one thread makes alone, to the last bit.
"""

import os
import random
import signal
import subprocess
import sys
import tempfile
import time
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
SIZE, SAMPLES_A_KILL = (160, 90), 40
MATERIAL, STAGE = "net-float", "window-bench"
REST_S = (2.0, 6.0)
PATIENCE_S = 1800


def begin_database() -> None:
    said = subprocess.run([ROOT / "tools" / "postgres.sh", "start"], capture_output=True, text=True, check=True)
    os.environ.update(line.split("=", 1) for line in said.stdout.splitlines() if "=" in line)


def kill_database() -> None:
    from django.db import connections

    with connections["default"].cursor() as cursor:
        cursor.execute("SHOW data_directory")
        folder = Path(cursor.fetchone()[0])
    os.kill(int((folder / "postmaster.pid").read_text().split()[0]), signal.SIGKILL)
    connections.close_all()
    begin_database()


class Running:
    """A process that is begun again when it was killed, or has ended by itself."""

    def __init__(self, *arguments: str):
        self.arguments, self.process = arguments, None
        self.keep_up()

    def keep_up(self) -> None:
        if self.process is None or self.process.poll() is not None:
            quiet = {"stdout": subprocess.DEVNULL, "stderr": subprocess.DEVNULL}
            self.process = subprocess.Popen([sys.executable, *self.arguments], cwd=ROOT / "server", **quiet)

    def kill(self) -> None:
        self.process.kill()
        self.process.wait()


def state_of(picture) -> str:
    from django.db import Error, connections

    try:
        picture.refresh_from_db()
    except Error:
        connections.close_all()
    return picture.state


def order(samples: int):
    from django.contrib.auth import get_user_model
    from materials import services as materials
    from nineglass.documents import model as documents
    from nineglass.documents.final import Final
    from pictures import services

    person, _ = get_user_model().objects.get_or_create(username="keeper")
    material, stage = (
        documents.read(model, (ROOT / "demo" / f"{name}.json").read_bytes())
        for model, name in ((documents.Material, MATERIAL), (documents.Stage, STAGE))
    )
    kept = materials.create(person, material)
    final = Final(width=SIZE[0], height=SIZE[1], noise=None, samples=samples, smoothed=False)
    return services.create(person, kept.id, material, stage, final)


def alone(picture):
    """The sums as one thread makes them, chunk by chunk."""
    from nineglass.finals.chunk import Maker, Place
    from nineglass.finals.plan import samples_of_chunk, tiles_of
    from nineglass.finals.sums import film_of
    from nineglass.trace.render import Tracer
    from pictures.making import Documents

    told = Documents.of(picture)
    [tile] = tiles_of(told.final)
    total, maker, number = film_of(tile), Maker(Tracer(threads=1)), 0
    while samples_of_chunk(told.final, tile, number)[1]:
        total.add(maker.make("alone", told.final, told.material, told.stage, Place(number=number)))
        number += 1
    return total


def kill_in_turn(kills: int, running: list[Running], picture) -> list[str]:
    """What was killed, until the picture is no longer under way."""
    killed, began = [], time.monotonic()
    targets = [("worker", running[0].kill), ("worker", running[1].kill), ("server", running[2].kill)]
    targets.append(("database", kill_database))
    while state_of(picture) == "under way" and time.monotonic() - began < PATIENCE_S:
        time.sleep(random.uniform(*REST_S))
        if len(killed) < kills and state_of(picture) == "under way":
            name, kill = targets[len(killed) % len(targets)]
            kill()
            killed.append(name)
        for one in running:
            one.keep_up()
    return killed


def main(kills: int) -> int:
    import numpy as np
    from django.core.management import call_command
    from nineglass.documents.final import Final
    from nineglass.documents.model import read
    from nineglass.finals.plan import tiles_of
    from nineglass.finals.sums import ALWAYS, THROWN
    from pictures import kept_sums

    call_command("migrate", verbosity=0)
    work = ("manage.py", "work", "--lanes", "1")
    serve = ("-m", "uvicorn", "config.asgi:application", "--host", "127.0.0.1", "--port", "0", "--log-level", "error")
    picture = order(kills * SAMPLES_A_KILL)
    running = [Running(*work), Running(*work), Running(*serve)]
    began = time.monotonic()
    try:
        killed = kill_in_turn(kills, running, picture)
    finally:
        for one in running:
            one.kill()
    spent = time.monotonic() - began
    piece = picture.pieces.get()
    [tile] = tiles_of(read(Final, picture.final))
    made, expected = kept_sums.of_piece(piece, tile), alone(picture)
    names = ALWAYS + THROWN
    is_same = all(np.array_equal(getattr(made, name), getattr(expected, name)) for name in names)
    counts = f"{made.counts.min()} to {made.counts.max()} samples a pixel of {picture.final['samples']}"
    of_each = ", ".join(f"{killed.count(name)} of the {name}" for name in ("worker", "server", "database"))
    print(f"{len(killed)} kills in {spent:.0f} s ({of_each}): {picture.state}, {counts}; the same sums: {is_same}")
    return 0 if is_same and picture.state == "done" and len(killed) == kills else 1


if __name__ == "__main__":
    with tempfile.TemporaryDirectory(prefix="nineglass-kills-", ignore_cleanup_errors=True) as folder:
        os.environ |= {"NINEGLASS_LOCAL": folder, "DJANGO_SETTINGS_MODULE": "config.settings"}
        sys.path[:0] = [str(ROOT / "core"), str(ROOT / "server")]
        os.environ["PYTHONPATH"] = os.pathsep.join(sys.path[:2])
        begin_database()
        try:
            import django

            django.setup()
            sys.exit(main(int(sys.argv[1]) if len(sys.argv) > 1 else 50))
        finally:
            subprocess.run([ROOT / "tools" / "postgres.sh", "stop"], check=False)
