"""What is around the objects. A new surround is one file here: its dials, and either `ends` (two colours that change over
at the horizon) or `picture`, (h, w, 3) linear Rec.709 radiance over all directions.

In a picture the rows run from straight up to straight down, and the middle column is the front (where a camera at azimuth 0
stands), columns to the right lying to the left of someone who looks from the middle to the front. May import describe and files only.
"""

from nineglass.describe import Catalogue

SURROUNDS = Catalogue("surround")

BRIGHT = {"hard": (0, 100000), "scale": "log", "ends": ("dim", "bright")}

SURROUNDS.discover(__name__, __path__)
