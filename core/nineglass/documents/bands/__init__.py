"""The bands of a section. A new band is one file here and its response in `optics`.

A band says where it may lie by its `rank` (0 outermost; a band may not lie beneath one of a higher rank, and bands of one rank
may change places), how many of it a stack may have (`most`), and `why`, the reason that is given where it cannot lie.
"""

from nineglass.describe import Catalogue

BANDS = Catalogue("band")

from nineglass.documents.bands import fuzz, film, coat, split, metal, interface, body, interior  # noqa: E402, F401, I001
