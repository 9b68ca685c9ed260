"""Sheets that are made from what a record declares of itself."""
