"""Grey Current: design, build and keep a dust collection system for a home woodshop."""

import os

# Matrices here are small: threads that wait for one another make them twice as slow. Read when
# NumPy is loaded.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
