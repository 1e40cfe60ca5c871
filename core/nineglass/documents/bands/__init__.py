"""The bands of a section. A new band is one file here and its response in `optics`."""

from nineglass.describe import Catalogue

BANDS = Catalogue("band")

from nineglass.documents.bands import body, interface, interior, metal  # noqa: E402, F401
