"""What gives light: lamps, glowing surfaces, and what is around everything.

An outline of a lamp is one file (`flat`, `sphere`, `point`, `sun`): where a ray meets it, a point drawn on it, the density of that, and
what it can give to a place. `beams` is how a lamp's glow depends on direction, `glowing` the surfaces that glow, `surround` what is
around; `ask` chooses one of them by what it can give, and balances asking against meeting it by chance.
"""
