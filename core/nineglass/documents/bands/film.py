from nineglass.describe import Cut, dial
from nineglass.documents.bands import BANDS


@BANDS.kind(title="Film", family="layer", standard="thin_film")
class Film:
    """A skin as thin as the waves of light: what its two sides reflect adds up or cancels, colour by colour.

    It lies on the coat, interface or metal beneath it; several lie on one another.
    """

    rank, most = 1, 4
    why = "a film lies on a coat, an interface or a metal"
    cut = Cut("skin", worked_out="film", says={"thin_film_thickness": "{:.0f} nm", "thin_film_ior": "n {:.2f}"})

    thin_film_thickness = dial(
        380.0,
        0.0,
        1500.0,
        hard=(0.0, 100000.0),
        label="Thickness",
        unit="nm",
        ends=("nothing", "many orders"),
        help="Soap and oil 100 to 800 nm, temper on steel 40 to 80 nm, nacre about 400 nm.",
        standard="thin_film_thickness",
        drivable=True,
    )
    thin_film_ior = dial(
        1.4,
        1.0,
        2.6,
        hard=(1.0, 4.0),
        label="Index",
        ends=("air", "titania"),
        help="Water 1.33, oil 1.47, iron oxide about 2.3. Colours are strong where it differs from what is above and below.",
        standard="thin_film_IOR",
        drivable=True,
    )
    thin_film_weight = dial(
        1.0,
        0.0,
        1.0,
        label="Amount",
        ends=("bare", "covered"),
        help="The share of the surface that the film covers.",
        standard="thin_film_weight",
        drivable=True,
    )
