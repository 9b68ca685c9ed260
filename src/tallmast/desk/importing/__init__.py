"""Bringing files in: one queue, one sheet for each kind of table."""
