"""The textbook: pure functions over NumPy arrays, SI units, no state, no files, no interface."""
