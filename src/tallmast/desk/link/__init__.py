"""The Link: budget against field."""
