"""Final pictures: cut into tiles and chunks of samples that any number of workers make, in any order, and that add up to the same sums.

`plan` says what there is to make, `chunk` makes a part of it, `sums` keeps what was made, `whole` puts the picture together. Knows nothing of
who works, and where things are kept.
"""
