"""What is done to a picture after the light. A new step is one file here: its dials, its rank (the lowest is done first), and `apply`, which
takes linear Rec.709 as three pictures (3, h, w), red, green and blue, and gives the same; lengths in it are shares of the picture's height, so that every size looks alike.

May import describe and spectra only.
"""

from nineglass.describe import Catalogue

FINISHES = Catalogue("finish")

FINISHES.discover(__name__, __path__)
