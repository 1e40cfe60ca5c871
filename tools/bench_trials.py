"""What trials and the library's shelf cost: a sheet of 25 pictures against one, and the first screen of 200 materials in Chromium."""

import time

from PIL import Image

MATERIALS = 200
SIDE = 192
WHOLE = """() => { const shelf = document.querySelector('[aria-label=Materials] ul'); if (!shelf) return false;
const seen = [...shelf.querySelectorAll('img')].filter(i => i.getBoundingClientRect().top < innerHeight);
return shelf.children.length >= %d && seen.length > 10 && seen.every(i => i.complete && i.naturalWidth) }"""


def bench_trials(document, open_bench) -> dict:
    """document(model, name) reads one of the demo; open_bench() gives a browser on the Bench."""
    return _sheet(document) | _shelf(open_bench)


def _sheet(document) -> dict:
    from nineglass.documents.trials import Trial
    from nineglass.trace.render import Tracer
    from nineglass.trials.ready import ready_for
    from nineglass.trials.sheet import Sheet

    material, stage = document("Material", "net-float"), document("Stage", "window-bench")
    name, across, down = ready_for(material)[0]
    middle = {"values": across.values[2:3]}
    whole = Trial(name=name, material=material, stage=stage, across=across, down=down)
    one = Trial(name=name, material=material, stage=stage, across=across.model_copy(update=middle))
    tracer = Tracer(2)
    _until_readable(Sheet(one), tracer)
    alone = min(_until_readable(Sheet(one), tracer) for _ in range(3))
    return {"trials.sheet_5x5_s_vs_one": _until_readable(Sheet(whole), tracer) / alone}


def _until_readable(sheet, tracer) -> float:
    began = time.perf_counter()
    while not sheet.readable:
        sheet.step(tracer)
    return time.perf_counter() - began


def _shelf(open_bench) -> dict:
    """Milliseconds from the click on Library to its first screen, every picture of it decoded."""
    import io

    from django.core.files.base import ContentFile
    from django.core.files.storage import default_storage

    with open_bench() as bench:
        from django.conf import settings
        from materials.models import Material

        settings.MEDIA_ROOT = f"{bench.server.files}/files"
        kept = Material.objects.filter(owner=bench.person).first()
        for number in range(MATERIALS):
            out = io.BytesIO()
            Image.radial_gradient("L").rotate(number).resize((SIDE, SIDE)).convert("RGB").save(out, "JPEG", quality=90)
            name = default_storage.save(f"portraits/{number}.jpg", ContentFile(out.getvalue()))
            about = {"picture": name, "pictured": 1, "family": "glass", "document": kept.document}
            Material.objects.create(owner=bench.person, name=f"Glass {number}", **about)
        Material.objects.filter(owner=bench.person, picture="").update(pictured=1, picture=name)
        page = bench.open_bench()
        began = time.perf_counter()
        page.get_by_role("link", name="Library").click()
        page.wait_for_function(WHOLE % MATERIALS, polling=10)
        return {"library.page_ms": 1000 * (time.perf_counter() - began)}
