"""Contrasts as they are told."""

from __future__ import annotations

from tallmast.units import show

from ..figure import Figure


def pair_words(figure: Figure, names: tuple[str, str]) -> str:
    """The sentence of a difference, the better one named first."""
    low, high = figure.interval
    if low <= 0 <= high:
        return f"{show.upper_first(names[0])} and {names[1]} can't be told apart over this path: {figure.text}."
    return f"{show.upper_first(names[0])} beats {names[1]} by {figure.text} over the same path."
