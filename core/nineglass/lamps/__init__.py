"""Lamps. A new lamp is one file here: its dials, and `light`, which gives its shape and radiance.

May import describe only. Power is apart from size: a larger lamp of the same power is dimmer to look at.
A lamp whose outline the tracer knows already (`Light.shape`) needs nothing else.
"""

from nineglass.describe import Catalogue

LAMPS = Catalogue("lamp")

LAMPS.discover(__name__, __path__)
