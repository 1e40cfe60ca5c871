"""What light travels in between the surfaces: which medium is there (`nesting`), what it does (`clear`), where the camera stands (`start`).

A new kind of medium is one file here: its rows, and what happens to a path on its way through it.
"""
