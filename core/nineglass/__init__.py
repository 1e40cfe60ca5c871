"""Nine Glass, the core: the physics and the pictures. No server, no screen.

Rooms: spectra, matter, optics, documents, network, forms, lamps, surrounds, trace, picture, gauges.
Distances are metres inside, centimetres in documents and on screen.
"""

__version__ = "0.1.0"
