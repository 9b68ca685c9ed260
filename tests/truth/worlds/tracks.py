"""Tracks of a logger that counts: each antenna meets the ground its own way, alike over 80 m; every run is off by a draw."""

from __future__ import annotations

import math

import numpy as np

from tallmast.notebook.records import DisplayRun, Log
from tallmast.physics.geodesy import destination

from ...findings.build import HOME, Book
from ..tally import Answer, quantity

DISTANCE = np.linspace(50.0, 950.0, 300)
ALIKE_M, OWN_DB, OFF_DB, FADING_DB = 80.0, 1.5, 1.0, 3.0
STRETCH_M = 150.0
"""What a stretch of the ground is taken to be for the truth of “better at a stretch like these”."""


def alike(rng: np.random.Generator, sd: float) -> np.ndarray:
    """Ground that is alike with itself over `ALIKE_M`."""
    rho = math.exp(-(DISTANCE[1] - DISTANCE[0]) / ALIKE_M)
    out = rng.normal(0, 1, len(DISTANCE))
    for i in range(1, len(out)):
        out[i] = rho * out[i - 1] + math.sqrt(1 - rho**2) * out[i]
    return sd * out


def flown(rng: np.random.Generator, order: str, ahead: float, receiver: str) -> Book:
    """Runs in an order; A so much better. The logger counts 2.5 a decibel, no better than by one."""
    book = Book()
    book.home()
    antennas = {k: book.antenna(k) for k in "AB"}
    if receiver:
        attenuation = np.repeat(np.arange(20.0, 142.0, 2.0), 4)
        steps = np.round(2.5 * (140.0 - attenuation) + rng.normal(0, 0.5, len(attenuation)))
        book.series["steps"] = {"attenuation_db": attenuation, "shown": steps, "order": np.arange(float(len(steps)))}
        book.add(DisplayRun(receiver=receiver, scale="level", series_id="steps", zero_dbm=0.0, zero_u_db=0.5))
    ground, own = alike(rng, 5.0), {k: alike(rng, OWN_DB) for k in "AB"}
    points = [destination(HOME.latitude_deg, HOME.longitude_deg, 37.0, float(d)) for d in DISTANCE]
    for number, letter in enumerate(order, 1):
        level = -50.0 - 30.0 * np.log10(DISTANCE / 100.0) + ground + own[letter] + (ahead if letter == "A" else 0.0)
        level += rng.normal(0, OFF_DB) + rng.normal(0, FADING_DB, len(DISTANCE))
        key = f"t{number}"
        book.series[key] = {
            "latitude_deg": np.array([p[0] for p in points]),
            "longitude_deg": np.array([p[1] for p in points]),
            "shown": np.round(2.5 * (140.0 + level)),
        }
        book.add(Log(run_id=book.run(antennas[letter], number).id, series_id=key, read_on="level", receiver=receiver))
    return book


@quantity("field", "difference over tracks in counts, display stepped, A B B A")
def stepped(rng: np.random.Generator) -> list[Answer]:
    ahead = rng.uniform(-4, 4)
    field = flown(rng, "ABBA", ahead, "logger").climb().field
    return [(field.difference("a", "b"), ahead)]


def _ahead(rng: np.random.Generator, order: str) -> list[Answer]:
    ahead = rng.uniform(0, 3)
    return [(flown(rng, order, ahead, "").climb().field.difference("a", "b"), ahead)]


@quantity("field", "better over tracks in counts, nothing stepped, A B B A")
def counted(rng: np.random.Generator) -> list[Answer]:
    return _ahead(rng, "ABBA")


@quantity("field", "better over tracks in counts, nothing stepped, three of each")
def counted_thrice(rng: np.random.Generator) -> list[Answer]:
    return _ahead(rng, "ABBAAB")


@quantity("field", "better over tracks in counts, nothing stepped, one of each")
def counted_once(rng: np.random.Generator) -> list[Answer]:
    return _ahead(rng, "AB")
