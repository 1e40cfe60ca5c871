"""How bright a white is, where brightness leaves the unit of the picture."""

WHITE_NITS = 100.0
"""Luminance (cd/m2) of 1 in the picture at exposure 0. Common practice: a white of 100 cd/m2."""
