"""Writing a material in a format, in a process of its own: it runs the network over millions of places, and must hold up nobody else."""

import json
import os
import sys
import tempfile
from pathlib import Path

from nineglass.child import Kind, say
from nineglass.describe import Fault, Refused
from nineglass.documents.model import Material, Stage, read
from nineglass.exchange.formats import Written, format_of
from nineglass.exchange.report import Report

WRITING = Kind("writing it", "smaller pictures", path="side", seconds=120, waits_s=120)
NETWORK = "program"
"""What it runs of compiled code, as `warm` calls it."""


def write_in_child(format_name: str, material: Material, stage: Stage, side: int) -> Written:
    """As `Format.write`. Raises Refused."""
    format_of(format_name)
    given = {"format": format_name, "side": side}
    given |= {"material": material.model_dump(mode="json"), "stage": stage.model_dump(mode="json")}
    with tempfile.TemporaryDirectory(prefix="nineglass-out-") as folder:
        said = WRITING.answer_of(__name__, folder, given=json.dumps(given).encode())
        files = {name: (Path(folder) / name).read_bytes() for name in said["files"]}
    return Written(files, Report(**said["report"]))


def main(folder: str) -> dict:
    """In the child: what is to be written comes on the standard input."""
    given = json.load(sys.stdin)
    _check_kernels()
    documents = read(Material, given["material"]), read(Stage, given["stage"])
    written = format_of(given["format"]).write(*documents, given["side"])
    for name, data in written.files.items():
        (Path(folder) / os.path.basename(name)).write_bytes(data)
    return {"files": list(written.files), "report": written.report.model_dump(mode="json")}


def _check_kernels() -> None:
    from nineglass import warm

    if not warm.is_ready(NETWORK):
        fault = "kernels that it needs are still being compiled"
        raise Refused([Fault("format", fault, "a moment later", "Try again in a minute; nothing is lost.")])


if __name__ == "__main__":
    say(lambda: main(sys.argv[1]), "side")
