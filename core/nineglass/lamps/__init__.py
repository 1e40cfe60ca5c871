"""Lamps. A new lamp is one file here: its dials and where it stands.

May import describe only. Power is apart from size: a larger lamp of the same power is dimmer to look at.
"""

from nineglass.describe import Catalogue

LAMPS = Catalogue("lamp")

from nineglass.lamps import rectangle  # noqa: E402, F401
