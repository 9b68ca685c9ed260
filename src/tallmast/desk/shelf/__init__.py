"""The Shelf: what is to be tested, and what is claimed of it."""
