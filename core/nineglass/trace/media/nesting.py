"""Which of several overlapping media is there: the one of the highest priority; of equals the one entered first.

Source: Schmidt & Budge 2002, Simple Nested Dielectrics in Ray Traced Images.
"""

from nineglass.kernels import step
from nineglass.trace.paths import AIR, LEVELS


@step
def medium_without(paths, i, priorities, left_out):
    """The medium that is there when one occurrence of a thing is left out (AIR for none left out)."""
    best, height = AIR, -1
    for level in range(paths.levels[i]):
        j = paths.within[level, i]
        if j == left_out:
            left_out = AIR - 1
            continue
        if priorities[j] > height:
            best, height = j, priorities[j]
    return best


@step
def medium_with(paths, i, priorities, entered):
    """The medium that is there when a thing is entered."""
    now = paths.medium[i]
    if now == AIR or priorities[entered] > priorities[now]:
        return entered
    return now


@step
def media_around(paths, i, priorities, thing, entering):
    """(medium before the surface of a thing, medium beyond it) for a path that meets it."""
    before = paths.medium[i]
    if entering:
        return before, medium_with(paths, i, priorities, thing)
    # A path that leaves what it never entered (a surface that is not closed) counts as having been in it.
    return thing if before == AIR else before, medium_without(paths, i, priorities, thing)


@step
def enter(paths, i, thing):
    """Note that a path is in a thing. Beyond 8 levels the outermost is forgotten."""
    if paths.levels[i] == LEVELS:
        for level in range(LEVELS - 1):
            paths.within[level, i] = paths.within[level + 1, i]
        paths.levels[i] -= 1
    paths.within[paths.levels[i], i] = thing
    paths.levels[i] += 1


@step
def leave(paths, i, thing):
    """Note that a path is out of a thing (once, when it was in it several times)."""
    kept, found = 0, False
    for level in range(paths.levels[i]):
        j = paths.within[level, i]
        if j == thing and not found:
            found = True
            continue
        paths.within[kept, i] = j
        kept += 1
    paths.levels[i] = kept


@step
def cross_surface(paths, i, thing, entering):
    """Note that a path went through the surface of a thing."""
    if entering:
        enter(paths, i, thing)
    else:
        leave(paths, i, thing)
