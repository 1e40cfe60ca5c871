"""Path tracing: a wavefront in batches. Generate, send rays, locate, run the programs, shade by family, cast shadows, settle; again until no
path is left (`render`).

Rooms: `geometry` (what rays meet), `families` (what each family of matter does), `media` (what light travels in), `light` (what gives it).
Beside them one kernel of the loop a file, `scene` and `matter`, which lay documents out for the kernels, and what asks a picture questions
(`pick`, `follow`, `hold_up`). Paths carry basic radiance (L / n^2) at four wavelengths. Distances are metres.
"""
