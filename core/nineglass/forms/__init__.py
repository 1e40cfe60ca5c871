"""Forms: what a material is put on. A new form is one file here: its dials in cm and `mesh`, a closed solid in metres.

May import describe only. Normals point out of the matter, so a hollow has its inner wall's normals pointing into the hollow.
"""

from nineglass.describe import Catalogue

FORMS = Catalogue("form")
FLOORS = Catalogue("floor")

from nineglass.forms import ball, block, floor, hollow  # noqa: E402, F401
