"""The Pattern: where the gain goes."""
