"""Absorption along a path: the Bouguer-Beer-Lambert law."""

from math import exp, log

import numpy as np

from nineglass.kernels import F, optic
from nineglass.optics.limits import CLEAREST

LEAST_SHARE = F(CLEAREST)


@optic
def transmittance(sigma_a, length):
    """Share of light left after a length of an absorbing medium.

    sigma_a: absorption coefficient, 1/m, >= 0. length: m, >= 0. Returns a share in [0, 1].
    Source: Bouguer-Beer-Lambert law; Born & Wolf, Principles of Optics, 7th ed., 4.8.2.
    """
    return exp(-sigma_a * length)


@optic
def sigma_at_depth(share, depth):
    """The absorption coefficient (1/m) at which `share` of the light is left after `depth` metres.

    share: transmittance in [0, 1]. depth: m, > 0.
    Source: OpenPBR 1.1, transmission_color and transmission_depth.
    """
    return -log(max(share, LEAST_SHARE)) / depth


def sigma_from_absorbance(absorbance, path_length):
    """Absorption coefficient (1/m) from a spectrophotometer's decadic absorbance over a path length in metres.

    Source: IUPAC Gold Book, 'absorbance': A = -log10(T).
    """
    return np.asarray(absorbance, float) * np.log(10) / path_length
