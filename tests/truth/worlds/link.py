"""Margins and ranges over ground that is no straight line in log distance."""

from __future__ import annotations

from ..tally import Answer, quantity
from .field import asked, margin, twenty_bars, typed_runs


@quantity("link", "margin within the places", high=0.96, why="two runs tell their spread badly")
def margin_inside(rng) -> list[Answer]:
    return margin(rng, 1500.0)


@quantity("link", "margin at one place among them")
def margin_at_one(rng) -> list[Answer]:
    return margin(rng, rng.uniform(500.0, 1700.0), very=True)


@quantity(
    "link", "margin at twice the farthest place", low=0.85, high=0.95, why="beyond the places anything from 85 to 95 %"
)
def margin_beyond(rng) -> list[Answer]:
    return margin(rng, 4000.0)


@quantity("link", "margin, read off a display with a doubtful zero")
def margin_displayed(rng) -> list[Answer]:
    return asked(rng, *typed_runs(rng, twenty_bars(rng), zero_u_db=2.0), 1500.0)
