"""A stage as OpenUSD that can be read and edited as text, with its pictures beside it."""

from nineglass.documents.model import Material, Stage
from nineglass.exchange.formats import Format, Written
from nineglass.exchange.usd import write_loose
from nineglass.exchange.usd_stage import read_files


def write(material: Material, stage: Stage, side: int = 1024) -> Written:
    return write_loose(material, stage, side, "usda")


FORMAT = Format(
    name="usd_text",
    title="OpenUSD stage, as text",
    ending=".usda",
    help="The same as text, to be read and edited by hand; several times as large.",
    begins=lambda head: False,  # What is read is told by `usd`, text or not.
    read=read_files,
    write=write,
    measured=False,
    place=6,
)
