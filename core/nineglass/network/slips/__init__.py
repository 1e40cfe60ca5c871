"""The slips. A new slip is one declaration here: its dials, what it gives, and `emit` in terms of `Ops`.

A slip may have `faults(dials)`: what is wrong with what it reads, in words, for a bench note.

`emit(ops, dials)` gets a register for each number, three for each colour or vector, and the plain value of every other dial.
"""

from nineglass.describe import Catalogue

SLIPS = Catalogue("slip")

SLIPS.discover(__name__, __path__)
