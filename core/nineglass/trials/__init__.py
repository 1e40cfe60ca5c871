"""Many pictures of one material: a dial over a range, two dials against each other, and what becomes of it elsewhere."""
