from nineglass.describe import choice, dial, file_dial, gives, text_dial, vector_in
from nineglass.network.grids import OURS, grid_of, names_in
from nineglass.network.slips import SLIPS

FITTED, TRUE_SIZE = "the object", "its true size"
UNITS = {"m": 100.0, "cm": 1.0, "mm": 0.1}


@SLIPS.kind(title="Grid", family="where", standard="constant")
class Grid:
    """A number from a grid in space, at this place: of chimney smoke or a wick flame of ours, or of an OpenVDB file. Outside it is 0."""

    synonyms = "voxel volume vdb smoke flame density temperature channel"
    place = vector_in("Place")
    source = choice(*OURS, "file", label="Grid")
    file = file_dial("grid", label="File", when=("source", "file"))
    channel = text_dial(
        "Channel",
        help="The name of the grid within: density, temperature, or what a file says; empty for the first.",
        offers=("density", "temperature"),
        offered_by="file",
    )
    fills = choice(FITTED, TRUE_SIZE, label="Fills")
    unit = choice(*UNITS, label="A unit of the file is", when=("fills", TRUE_SIZE))
    scale = dial(1.0, 0.1, 10, hard=(0.001, 1000), label="Times", scale="log", ends=("smaller", "larger"))
    out = gives("number")

    def emit(self, ops, dials):
        found = grid_of(dials.source, dials.file, dials.channel.strip())
        if found is None:
            return {"out": ops.constant(0)}
        values, extent = found
        place = dials.place if "place" in dials.driven else ops.position
        if dials.fills == FITTED:
            sizes = ops.inputs("width", "height", "depth")
        else:
            in_cm = UNITS[dials.unit] if dials.source == "file" else 1.0
            sizes = ops.constants([side * in_cm for side in extent])
        half = ops.constant(0.5)
        shares = (ops.div(p, ops.mul(size, dials.scale)) for p, size in zip(place, sizes, strict=True))
        return {"out": ops.grid(values, tuple(ops.add(share, half) for share in shares))}

    def faults(self, dials) -> list[str]:
        """What is wrong with a channel that is asked for, in words."""
        if dials["source"] == "file" and not dials["file"]:
            return ["no file is chosen"]
        names = names_in(dials["source"], dials["file"])
        name = dials["channel"].strip()
        return [] if name in ("", *names) else [f"there is no grid {name!r} in it; it holds {', '.join(names)}"]
