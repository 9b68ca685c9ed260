"""Receivers whose noise figure is what a sheet says of it, feeds, preamps, and places that are louder or quieter than the table's median.

Powers are summed here link by link, not by the finding's cascade.
"""

from __future__ import annotations

import numpy as np

from tallmast.findings.levels.noise import read_noise
from tallmast.notebook.records import NoiseSite

from ...findings.build import Book
from ..tally import Answer, quantity

BANDWIDTH_HZ = 12_500.0
KTB_W = 1.380649e-23 * 290.0 * BANDWIDTH_HZ


def watts(figure_db: float) -> float:
    """What a stage of a noise figure adds at its own input, W."""
    return KTB_W * (10 ** (figure_db / 10) - 1)


class Place:
    """A receiver behind a feed, with or without a preamp before it; noise in watts at the antenna's connector."""

    def __init__(self, rng, outside_over_ktb: float) -> None:
        self.receiver, self.preamp = rng.uniform(3, 9), rng.uniform(0.5, 2)
        self.gain, self.feed = rng.uniform(12, 20), rng.uniform(1, 6)
        self.outside_w = KTB_W * outside_over_ktb

    def heard_w(self, preamp: bool) -> float:
        kept = 10 ** (-self.feed / 10)
        feed_w = KTB_W * (1 - kept)  # of a line at 290 K, at its end
        behind = (feed_w + watts(self.receiver)) / kept
        if preamp:
            return self.outside_w + watts(self.preamp) + behind / 10 ** (self.gain / 10)
        return self.outside_w + behind


def noted(rng, place: Place, frequency_hz: float, **more):
    """What somebody writes of it: figures by the sheet, a decibel off; gain and feed as marked."""
    book = Book()
    book.add(book.records["question"].revised(band_low_hz=frequency_hz, band_high_hz=frequency_hz))
    book.add(
        NoiseSite(
            bandwidth_hz=BANDWIDTH_HZ,
            receiver_figure_db=max(place.receiver + rng.normal(0, 1), 0.1),
            preamp_figure_db=max(place.preamp + rng.normal(0, 1), 0.0),
            preamp_gain_db=place.gain + rng.normal(0, 1),
            feed_loss_db=max(place.feed + rng.normal(0, 0.3), 0.05),
            **more,
        )
    )
    return read_noise(book.evidence, 2.15)


def dbm(watt: float) -> float:
    return 10 * np.log10(watt) + 30


def measured(rng):
    place = Place(rng, 10 ** (rng.uniform(-3, 20) / 10))
    return place, noted(rng, place, 869e6, floor_dbm=dbm(place.heard_w(False)) + rng.normal(0, 1))


@quantity("levels", "noise floor, measured")
def floor_measured(rng) -> list[Answer]:
    place, found = measured(rng)
    return [(found.floor, dbm(place.heard_w(False)))]


@quantity("levels", "worth of a preamp at the mast, noise measured")
def preamp_measured(rng) -> list[Answer]:
    place, found = measured(rng)
    told = next((r.improvement for r in found.remedies if r.key == "mast preamp"), None)
    return [(told, dbm(place.heard_w(False)) - dbm(place.heard_w(True)))]


def by_table(rng):
    """Residential at 145 MHz: over time and over places as the Recommendation's deciles have it, each side by its own."""
    median = 72.5 - 27.7 * np.log10(145.0)
    over = rng.normal()
    time = over * (10.6 if over > 0 else 5.3) / 1.2816
    place = Place(rng, 10 ** ((median + time + rng.normal(0, 5.8 / 1.2816)) / 10))
    return place, noted(rng, place, 145e6, surroundings="residential")


@quantity("levels", "noise floor, by kind of place")
def floor_by_table(rng) -> list[Answer]:
    place, found = by_table(rng)
    return [(found.floor, dbm(place.heard_w(False)))]


@quantity("levels", "worth of a preamp at the mast, noise by kind of place")
def preamp_by_table(rng) -> list[Answer]:
    place, found = by_table(rng)
    told = next((r.improvement for r in found.remedies if r.key == "mast preamp"), None)
    return [(told, dbm(place.heard_w(False)) - dbm(place.heard_w(True)))]
