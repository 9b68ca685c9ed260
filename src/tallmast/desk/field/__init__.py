"""The Field: the distance test."""
