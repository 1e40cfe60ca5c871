"""Forms: what a material is put on. A new form is one file here: its dials in cm and `mesh`, a closed solid in metres.
A form of several parts (a vessel and its liquid) names them in `parts`, each with its priority, and gives `mesh` of each.

A form may have `faults(dials)`: for each thing that is wrong with the way it is set (what, the dial, what to set it to), for a bench note.

May import describe only. Normals point out of the matter, so a hollow has its inner wall's normals pointing into the hollow.
"""

from nineglass.describe import Catalogue

FORMS = Catalogue("form")
FLOORS = Catalogue("floor")

FORMS.discover(__name__, __path__)
