"""The bands of a section. A new band is one file here: its dials, where it may lie (`describe.Rules`), and its cut, how the section draws it.

A band that throws light back by a response of its own names the module of it (`lobe`; `trace.families.lobes` says what it has), where it
lies (`lies`: "top" or "bottom") and which dial is its amount.
"""

from nineglass.describe import Catalogue

BANDS = Catalogue("band")
BANDS.discover(__name__, __path__)
