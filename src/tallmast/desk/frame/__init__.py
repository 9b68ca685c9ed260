"""The window: its frame around the rungs, keys, acts, the finder, the tape, the start page."""
