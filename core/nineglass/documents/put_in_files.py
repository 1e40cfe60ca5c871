"""Which files that were put in a document names, and which of them are not there."""

from collections.abc import Iterable, Iterator

from nineglass.catalogue import BANDS, CAMERAS, FLOORS, FORMS, LAMPS, SLIPS, SURROUNDS
from nineglass.describe import Fault, FileKind
from nineglass.documents.model import SURROUND_PARTS, Document, Material, ModuleFile, Part, Stage
from nineglass.files import absent, is_kept

NamedFile = tuple[str, str, FileKind]
"""Where a file is named, its SHA-256, and what kind of file it is."""


def files_in(document: Document) -> list[NamedFile]:
    """Every file that a checked document names and makes use of."""
    found = []
    for path, kinds, part in _parts_of(document):
        if part is None or part.kind not in kinds.kinds:
            continue
        kind = kinds.kinds[part.kind]
        values = kind.defaults() | part.dials
        for name, dial in kind.dials.items():
            if dial.type == "file" and values[name] and kind.has_effect(name, values):
                found.append((f"{path}.dials.{name}", values[name], dial.holds))
    return found


def faults_of_files(named: Iterable[NamedFile], is_there=lambda name, kind: is_kept(name)) -> list[Fault]:
    """What to say of files that are not there."""
    return [absent(path, name) for path, name, kind in named if not is_there(name, kind)]


def _parts_of(document: Document) -> Iterator[tuple[str, object, Part | None]]:
    if isinstance(document, Material):
        yield from ((f"section.bands[{i}]", BANDS, one) for i, one in enumerate(document.section.bands))
        yield from _slips_of("", document)
    if isinstance(document, Material | ModuleFile):
        for i, module in enumerate(document.modules):
            yield from _slips_of(f"modules[{i}].", module)
    if isinstance(document, Stage):
        yield from (("camera", CAMERAS, document.camera), ("floor", FLOORS, document.floor))
        yield from ((f"surround.{name}", SURROUNDS, getattr(document.surround, name)) for name in SURROUND_PARTS)
        yield from ((f"lamps[{i}]", LAMPS, one) for i, one in enumerate(document.lamps))
        for i, one in enumerate(document.objects):
            yield f"objects[{i}].form", FORMS, one.form
            for part, wear in one.wears.items():
                for path, kinds, inner in _parts_of(wear.material) if wear.material else ():
                    yield f"objects[{i}].wears.{part}.material.{path}", kinds, inner


def _slips_of(before: str, network) -> Iterator[tuple[str, object, Part]]:
    return ((f"{before}slips[{i}]", SLIPS, one) for i, one in enumerate(network.slips))
