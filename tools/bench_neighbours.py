"""What open benches cost one another in one rendering process, and what a large file costs to put in."""

import asyncio
import json
import os
import statistics
import struct
import sys
import tempfile
import time
from pathlib import Path

import numpy as np

ROOT = Path(__file__).resolve().parent.parent
MATERIALS = ("net-float", "sea-worn-float", "clear-glass", "brass-cap", "rock-crystal")
SMALL, HEAVY = {"picture_side": 96}, {"picture_side": 1024, "most_bounces": 64}


def bench_neighbours() -> dict:
    """The first frame of the slowest of 20 benches that change at once; that of a small bench beside a heavy one, over alone."""
    import django

    sys.path.insert(0, str(ROOT / "server"))
    os.environ["DJANGO_SETTINGS_MODULE"] = "config.settings"
    django.setup()
    return asyncio.run(_neighbours())


async def _neighbours() -> dict:
    from live.supervisor import Supervisor

    supervisor = Supervisor(linger_s=0)
    try:
        small = await OpenBench.open(supervisor)
        await small.first_frame(SMALL)
        alone = [await small.first_frame(SMALL) for _ in range(15)]
        heavy = await OpenBench.open(supervisor)
        await heavy.first_frame(HEAVY)
        beside = [await small.first_frame(SMALL) for _ in range(15)]
        await supervisor.close(heavy.session)
        await supervisor.close(small.session)
        benches = [await OpenBench.open(supervisor) for _ in range(20)]
        times = await asyncio.gather(
            *(one.first_frame({"picture_side": 480}, MATERIALS[i % 5]) for i, one in enumerate(benches))
        )
        return {
            "live.twenty_benches_first_frame_s": max(times),
            "live.neighbour_ms_beside_heavy": statistics.median(beside) / statistics.median(alone),
        }
    finally:
        await supervisor.end()


class OpenBench:
    """A bench without a browser: it acknowledges frames as they come."""

    session: str

    def __init__(self, supervisor):
        self.supervisor, self.sequence, self.came = supervisor, 0, asyncio.Event()

    @classmethod
    async def open(cls, supervisor) -> "OpenBench":
        bench = cls(supervisor)
        bench.session = await supervisor.open(bench.hear)
        while supervisor.process is None:
            await asyncio.sleep(0.01)
        return bench

    async def hear(self, header: dict, payload: bytes) -> None:
        if header["type"] == "frame":
            if header["sequence"] == self.sequence:
                self.came.set()
            await self.supervisor.say(self.session, {"type": "shown"})

    async def first_frame(self, settings: dict, material: str = "net-float") -> float:
        """Seconds from a change to its first frame."""
        self.sequence += 1
        self.came.clear()
        documents = {name: _demo(one) for name, one in (("material", material), ("stage", "lamp-room"))}
        documents["material"]["section"]["bands"][0].setdefault("dials", {})["specular_roughness"] = self.sequence / 500
        began = time.perf_counter()
        settings = {"most_samples": 16384} | settings
        message = {"type": "show", "sequence": self.sequence, "inside": "", "settings": settings, **documents}
        await self.supervisor.say(self.session, message)
        await self.came.wait()
        return time.perf_counter() - began


def _demo(name: str) -> dict:
    return json.loads((ROOT / "demo" / f"{name}.json").read_text())


def bench_upload() -> dict:
    """A mesh of a million triangles kept, read within limits, and its facts told."""
    from nineglass.files import keep
    from nineglass.forms.mesh import star
    from nineglass.put_in import facts_of

    mesh = star(lambda out: 0.06 * (1 + 0.05 * np.sin(9 * out[:, 0]) * np.cos(11 * out[:, 1])), cells=289)
    rows = np.zeros(len(mesh.faces), np.dtype([("n", "<f4", 3), ("v", "<f4", (3, 3)), ("a", "<u2")]))
    rows["v"] = mesh.vertices[mesh.faces]
    content = b"\0" * 80 + struct.pack("<I", len(rows)) + rows.tobytes()
    times = []
    for _ in range(3):
        with tempfile.TemporaryDirectory() as folder:
            os.environ["NINEGLASS_FILES"] = folder
            began = time.perf_counter()
            facts = facts_of(keep(content[k : k + 65536] for k in range(0, len(content), 65536)), "mesh")
            times.append(time.perf_counter() - began)
    print(f"  {facts['triangles']} triangles in {', '.join(f'{one:.1f}' for one in times)} s", file=sys.stderr)
    return {"upload.mesh_1m_s": min(times)}
