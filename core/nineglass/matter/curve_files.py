"""Curves over wavelength from files and into them: CSV, and SPDX (IES TM-27). What comes in is hostile until it is read."""

import csv
import io
from xml.etree import ElementTree

from nineglass.describe import Fault, Refused

LARGEST_CHARACTERS = 500_000
MOST_POINTS = 512
NAMESPACE = "{http://www.ies.org/iestm2714}"


RELATIVE = "relative"
"""The quantity of what has a shape alone: its highest value is taken for 1."""


def read_curve(text: str, quantity: str = "") -> list[list[float]]:
    """Points [nm, value] by rising wavelength, values 0 to 1 (percent is recognised). quantity: see `Dial.quantity`. Raises Refused."""
    if len(text) > LARGEST_CHARACTERS:
        raise _refused("the text is too long", f"at most {LARGEST_CHARACTERS} characters")
    points = _from_spdx(text) if text.lstrip().startswith("<") else _from_csv(text)
    points = sorted({round(nm, 4): value for nm, value in points if 200 <= nm <= 3000}.items())
    if len(points) < 2:
        raise _refused("fewer than two points between 200 and 3000 nm", "lines of wavelength in nm and value")
    if len(points) > MOST_POINTS:
        points = points[:: -(-len(points) // MOST_POINTS)]
    highest = max(value for _, value in points)
    scale = 0.01 if 1.5 < highest <= 100.5 else 1.0
    if quantity == RELATIVE:
        if highest <= 0:
            raise _refused("there is no light in it", "a value above 0 at some wavelength")
        scale = 1 / highest
    for nm, value in points:
        if not -0.001 <= value * scale <= 1.005:
            raise _refused(f"{value:g} at {nm:g} nm is no share", "values from 0 to 1, or 0 to 100 percent")
    return [[nm, min(max(value * scale, 0.0), 1.0)] for nm, value in points]


def csv_of(points: list[list[float]], quantity: str) -> str:
    """A curve as CSV. points: [nm, value]; values that come back to the last digit."""
    return "\n".join([f"wavelength_nm,{quantity}", *(f"{nm:g},{value!r}" for nm, value in points)]) + "\n"


def spdx_of(points: list[list[float]], quantity: str, description: str) -> str:
    """A curve as SPDX. quantity: a word of IES TM-27-14, such as "transmittance"; description: what was measured."""
    root = ElementTree.Element("IESTM2714", {"xmlns": NAMESPACE.strip("{}"), "version": "1.0"})
    header = ElementTree.SubElement(root, "Header")
    for name, text in (("Description", description), ("DocumentCreator", "Nine Glass"), ("UniqueIdentifier", "")):
        ElementTree.SubElement(header, name).text = text
    data = ElementTree.SubElement(root, "SpectralDistribution")
    ElementTree.SubElement(data, "SpectralQuantity").text = quantity
    for nm, value in points:
        ElementTree.SubElement(data, "SpectralData", {"wavelength": f"{nm:g}"}).text = repr(float(value))
    ElementTree.indent(root)
    return '<?xml version="1.0" encoding="UTF-8"?>\n' + ElementTree.tostring(root, encoding="unicode") + "\n"


def _from_csv(text: str):
    """Two columns; a heading and lines without two numbers are passed over when numbers follow."""
    delimiter = next((mark for mark in (";", "\t", ",") if mark in text), " ")
    rows = csv.reader(io.StringIO(text), delimiter=delimiter, skipinitialspace=True)
    for row in _rows(rows):
        cells = [cell for cell in row if cell.strip()]
        try:
            nm, value = (float(cell.replace(",", ".")) for cell in cells[:2])
        except ValueError:
            continue
        yield nm, value


def _rows(rows):
    try:
        yield from rows
    except csv.Error as error:
        raise _refused(f"not a table: {error}", "lines of wavelength in nm and value") from None


def _from_spdx(text: str):
    """Source: IES TM-27-14, Standard Format for the Electronic Transfer of Spectral Data."""
    if "<!DOCTYPE" in text or "<!ENTITY" in text:
        raise _refused("the XML declares entities", "plain SPDX")
    try:
        root = ElementTree.fromstring(text)
    except ElementTree.ParseError as error:
        raise _refused(f"not XML: {error}", "SPDX (IES TM-27)") from None
    for one in root.iter():
        if one.tag in ("SpectralData", f"{NAMESPACE}SpectralData"):
            try:
                yield float(one.attrib["wavelength"]), float((one.text or "").strip())
            except (KeyError, ValueError):
                raise _refused("a SpectralData without wavelength or value", "numbers") from None


def _refused(fault: str, allowed: str) -> Refused:
    return Refused([Fault("curve", fault, allowed, "Check the file or the pasted text.")])
