"""Wavelengths, observer, illuminants, black body, colour to spectrum and back.

May import kernels and vectors only. A new illuminant is a function of wavelength beside `blackbody`.
"""
