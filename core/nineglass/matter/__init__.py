"""Measured matter and what a material's dials mean in it: index and absorption over wavelength.

A new substance is one data file in data/substances with its source. Dyes are in dyes.py. May import describe, documents and spectra's tables.
"""
