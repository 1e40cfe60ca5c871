"""Closed forms: one formula, one function, scalar, called by kernels and by tests alike.

May import kernels, vectors and spectra. A new response is one file here, with its evaluation, its sampler and its pdf.
"""
