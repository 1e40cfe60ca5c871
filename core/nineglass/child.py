"""Work in a process of its own, with limits on memory and on time of the processor; few are under way at once, others wait their turn.

Work is a module that is run with its arguments, reads from its standard input and says JSON: what came of it, or `faults`.
"""

import json
import os
import resource
import signal
import subprocess
import sys
import threading
from dataclasses import asdict, dataclass, field
from pathlib import Path

from nineglass.describe import Fault, Refused

MOST_MEMORY = 3_000_000_000
WALL = 8
"""How many times the processor's time may pass, where others want the processor as well."""


@dataclass
class Kind:
    """A kind of work: what is told where its limits are met, and how many there are at once."""

    what: str
    """Such as "reading it"."""
    allowed: str
    """What would be within the limits."""
    path: str = "file"
    seconds: int = 40
    """Of the processor."""
    at_once: int = 2
    waits_s: float = 60
    """How long one waits for others."""
    turns: threading.BoundedSemaphore = field(init=False)

    def __post_init__(self):
        self.turns = threading.BoundedSemaphore(self.at_once)

    def answer_of(self, module: str, *arguments: str, given: bytes = b"") -> dict:
        """What a module says that is run with these arguments. Raises Refused."""
        if not self.turns.acquire(timeout=self.waits_s):
            raise self._refused(f"others are still at {self.what}", "one at a time", "Try again in a minute.")
        try:
            return self._run([sys.executable, "-m", module, *arguments], given)
        finally:
            self.turns.release()

    def _run(self, command: list[str], given: bytes) -> dict:
        limits = {"NINEGLASS_MOST_SECONDS": str(self.seconds)}
        try:
            done = subprocess.run(
                command,
                input=given,
                env=environment() | limits,
                capture_output=True,
                timeout=WALL * self.seconds,
                check=True,
            )
        except subprocess.TimeoutExpired:
            raise self._takes_too_long() from None
        except subprocess.CalledProcessError as ended:
            if ended.returncode == -signal.SIGXCPU:
                raise self._takes_too_long() from None
            raise self._refused(f"{self.what} fails, or needs more memory than there is", self.allowed) from None
        said = json.loads(done.stdout)
        if "faults" in said:
            raise Refused([Fault(**fault) for fault in said["faults"]])
        return said

    def _takes_too_long(self) -> Refused:
        return self._refused(f"{self.what} takes longer than {self.seconds} s", self.allowed)

    def _refused(self, fault: str, allowed: str, remedy: str = "Choose another.") -> Refused:
        return Refused([Fault(self.path, fault, allowed, remedy)])


def environment() -> dict[str, str]:
    alone = dict.fromkeys(("OPENBLAS_NUM_THREADS", "OMP_NUM_THREADS", "MKL_NUM_THREADS"), "1")
    return {**os.environ, **alone, "PYTHONPATH": str(Path(__file__).resolve().parents[1])}


def limited() -> None:
    """In the child: the limits hold from here on."""
    seconds = int(os.environ["NINEGLASS_MOST_SECONDS"])
    resource.setrlimit(resource.RLIMIT_AS, (MOST_MEMORY, MOST_MEMORY))
    resource.setrlimit(resource.RLIMIT_CPU, (seconds, seconds + 1))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))


def say(work, path: str = "file") -> None:
    """In the child: what some work comes to, or its faults, as JSON on the standard output."""
    limited()
    try:
        said = work()
    except Refused as refused:
        said = {"faults": [asdict(fault) for fault in refused.faults]}
    except MemoryError:
        fault = Fault(path, "it takes too much memory", "something smaller", "Choose something smaller.")
        said = {"faults": [asdict(fault)]}
    json.dump(said, sys.stdout, allow_nan=False)
