"""Levels: power, pads and clear distance."""
