"""Margins and ranges over ground that is no straight line in log distance."""

from __future__ import annotations

import numpy as np

from tallmast.notebook.records import FarEnd, Radio

from ...findings.build import HOME
from ..tally import Answer, quantity
from .field import asked, campaign, margin, twenty_bars, typed_runs


@quantity("link", "margin within the places", high=0.96, why="two runs tell their spread badly")
def margin_inside(rng) -> list[Answer]:
    return margin(rng, 1500.0)


@quantity("link", "margin at one place among them")
def margin_at_one(rng) -> list[Answer]:
    return margin(rng, rng.uniform(500.0, 1700.0), very=True)


@quantity("link", "margin, the way back through noise", high=0.96, why="two runs tell their spread badly")
def margin_back_through_noise(rng) -> list[Answer]:
    """Noise at home that somebody read to 1.5 dB, over what the receiver takes or under it; the receiver asks 8 to 12 dB over it."""
    book, ground, gains, antennas = campaign(rng, "ABBA")
    book.home()
    snr, noise, own = rng.uniform(8.0, 12.0), rng.uniform(-125.0, -95.0), -112.0
    book.add(HOME.revised(height_m=ground.h1, noise_dbm=float(noise + rng.normal(0, 1.5))))
    stack = book.place("Stack", 1500.0, height_m=ground.h2)
    book.add(book.records["question"].revised(wanted_place_id=stack.id))
    book.add(Radio(id="set", name="set", snr_db=float(snr)))
    book.levels(power_w=0.01, full_power_w=0.01, sensitivity_dbm=own, sensitivity_u_db=0.7, radio_id="set")
    book.add(FarEnd(sensitivity_dbm=-110.0, sensitivity_u_db=0.0, gain_dbi=0.0, power_w=0.02))
    found = book.climb(antennas["A"]).link.margins[0].back
    sent = 13.01 + rng.normal(0, 0.5) + rng.normal(0, 3.0) + rng.normal(0, 1.5)
    taken = max(noise + snr, own + rng.normal(0, 0.7))
    return [(found, sent + gains["A"] - float(ground.loss(np.array([1500.0]))[0]) - taken)]


@quantity(
    "link", "margin at twice the farthest place", low=0.85, high=0.95, why="beyond the places anything from 85 to 95 %"
)
def margin_beyond(rng) -> list[Answer]:
    return margin(rng, 4000.0)


@quantity("link", "margin, read off a display with a doubtful zero")
def margin_displayed(rng) -> list[Answer]:
    return asked(rng, *typed_runs(rng, twenty_bars(rng), zero_u_db=2.0), 1500.0)
