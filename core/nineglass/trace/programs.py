"""What a material's program leaves to be worked out before its surfaces can be shaded."""

from nineglass.kernels import kernel
from nineglass.spectra.upsampling import table_coefficients


@kernel
def fit_colors(registers, fit, sigmoids, first, last):
    """Coefficients of a colour that varies over the form, for some columns. fit: registers of red, green, blue and coefficients."""
    for column in range(first, last):
        table_coefficients(
            sigmoids,
            registers[fit[0], column],
            registers[fit[1], column],
            registers[fit[2], column],
            registers[fit[3] : fit[5] + 1, column],
        )
