"""Path tracing: a wavefront in batches. Generate, intersect, run the program, shade, cast shadows, settle; again until no path is left.

Each file but `scene`, `film` and `render` holds one kernel of the loop. A new response is a shade kernel with a queue of its own.
Paths carry basic radiance (L / n^2) at four wavelengths. Distances are metres.
"""
