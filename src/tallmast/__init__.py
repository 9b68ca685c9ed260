"""Tall Mast: which antenna, how sure, by how much, and does the claim hold."""

import os

# Set before NumPy loads. Matrices here are small and many: threads that wait for each other made the weighing of a day four times slower.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

__version__ = "0.1.0"
