"""Limits that hold on both sides: where matter is described, and in kernels."""

CLEAREST = 1e-6
"""A transmittance below this counts as this, so that the coefficient stays finite."""

LEAST_SCALE = 1e-3
"""How far a wavelength goes in a subsurface at least, of its mean free path."""
