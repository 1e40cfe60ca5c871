"""All kinds there are, by role. The rooms fill these; the screens and checks read them."""

from nineglass.cameras import CAMERAS
from nineglass.describe import CONVERSIONS, Catalogue
from nineglass.documents import shown
from nineglass.documents.bands import BANDS
from nineglass.forms import FLOORS, FORMS
from nineglass.lamps import LAMPS
from nineglass.network.gradients import GRADIENTS
from nineglass.network.slips import SLIPS
from nineglass.surrounds import SURROUNDS

ROLES = (BANDS, SLIPS, FORMS, FLOORS, LAMPS, SURROUNDS, CAMERAS)


def as_json(*more: Catalogue) -> dict:
    """Every kind with its ports and dials, the conversions that a wire may do, the gradients for ramps, and how pictures may be shown.

    more: roles that no document of a material or a stage has parts of.
    """
    return {
        "kinds": [kind.as_json() for role in (*ROLES, *more) for kind in role.kinds.values()],
        "conversions": [{"source": a, "target": b, "says": says} for (a, b), says in CONVERSIONS.items()],
        "gradients": [{"name": name, "stops": stops} for name, stops in GRADIENTS.items()],
        **shown.as_json(),
    }
