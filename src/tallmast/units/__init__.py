"""Quantities as people write them: `read` turns typed text into SI values, `show` turns values into text."""
