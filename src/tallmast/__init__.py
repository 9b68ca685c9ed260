"""Tall Mast: which antenna, how sure, by how much, and does the claim hold."""

__version__ = "0.1.0"
