"""The Bench: is it matched, where, and can the reading be believed."""
