"""The sheet of a day of calls: places, antennas and modes in a few words, and then single keys."""

from __future__ import annotations

import re
from collections.abc import Callable, Collection
from itertools import product
from typing import Any

from tallmast.notebook.entry import Entry
from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import LISTENING_ENDS, Place, Run
from tallmast.units import read, show
from tallmast.units.quantity import POWER

from ..session import Session
from ..sheets.entry import Form
from ..sheets.fields import Field, FieldError
from .where import place_at

ORDERS = (("each", "all at every place, swapped"), ("whole", "the whole way with each, and back"))
NOWHERE: tuple[float | None, float | None, float | None] = (None, None, None)
Named = tuple[str, tuple[float | None, float | None, float | None]]
"""A place's name, and where it is: coordinates, a distance, or neither."""


def places_of(text: str, known: dict[str, tuple[float, float]], home: str = "") -> list[Named]:
    """`ford 800 m, mill, gate 1.2 miles N`: names in the order passed, each with its distance where that is known; a distance
    alone is a name too. Raises `UnitError`."""
    out: list[Named] = []
    for part in (piece.strip() for piece in re.split(r"[;,\n]", text)):
        if not part:
            continue
        name, where = part, NOWHERE
        for at in [0, *(m.end() for m in re.finditer(r"\s+(?=\d)", part))]:
            try:
                where = place_at(part[at:], known, home)
            except read.UnitError:
                continue
            name = part[:at].strip() or part
            break
        if name.lower() in (other.lower() for other, _ in out):
            raise read.UnitError("each place once", name)
        out.append((name, where))
    if not out:
        raise read.UnitError("places, such as: ford 800 m, mill, gate 1.2 miles", text)
    return out


def _words(text: str) -> list[str]:
    return list(dict.fromkeys(w.strip() for w in re.split(r"[;,]", text) if w.strip()))


def calls_form(session: Session, then: Callable[[], object]) -> Form:
    """A grid of calls; kept, it goes on by single keys."""
    evidence = session.evidence
    home = evidence.home
    known = {p.name.lower(): p.position for p in evidence.places if p.position is not None}
    there = ", ".join(p.name for p in evidence.places if home is None or p.id != home.id)
    antennas = {a.name.lower(): a for a in evidence.antennas}
    last = evidence.runs[-1] if evidence.runs else None

    def chosen(text: str) -> list[str]:
        names = _words(text)
        missing = [n for n in names if n.lower() not in antennas]
        if missing:
            raise read.UnitError(f"antennas of the shelf ({', '.join(a.name for a in evidence.antennas)})", missing[0])
        return [antennas[n.lower()].id for n in names]

    fields = [
        Field(
            "places",
            "Places, in the order passed",
            lambda t: places_of(t, known, home.name.lower() if home else ""),
            lambda made: _places_words(made, {p.name.lower() for p in evidence.places}),
            there,
            "ford 800 m, mill, gate 1.2 miles",
            True,
        ),
        Field(
            "antennas",
            "Antennas",
            chosen,
            lambda made: show.count(len(made), "antenna"),
            ", ".join(a.name for a in evidence.antennas),
            "Stub, Long Whip",
            True,
        ),
        Field(
            "modes",
            "Modes, where there are several",
            _words,
            lambda made: show.count(len(made), "mode"),
            "",
            "FM, data",
        ),
        Field("order", "In which order", choices=ORDERS, chosen="each"),
        Field("end", "Who listens", choices=list(LISTENING_ENDS.items()), chosen=last.listening if last else "home"),
        Field("power", "Power, if it is known", POWER.read, POWER.echo, "", "5 W", seldom=True),
    ]

    def keep(v: dict[str, Any]) -> bool:
        places, new = _places(evidence, v["places"])
        if len(places) * len(v["antennas"]) < 2:
            raise FieldError("places", "A comparison takes two antennas, or two places at least.")
        runs = _runs(evidence, v, [p.id for p in places], session.channel_hz)
        calls = len(places) * len(runs)
        label = (
            f"A grid of {show.count(calls, 'call')}: {show.count(len(places), 'place')}, {show.count(len(runs), 'run')}"
        )
        if not session.write(Entry(label, [*new, *runs])):
            return False
        then()
        return True

    note = (
        "One key a call then. Keep clear of the antenna while it sends; who may send what is for your licence to say."
    )
    return Form("A day of calls", fields, keep, note, keep_words="Begin")


def _places_words(made: list[Named], known: Collection[str]) -> str:
    new = [where for name, where in made if name.lower() not in known]
    words = show.count(len(made), "place")
    if not new:
        return f"{words}, known already"
    placed = sum(any(part is not None for part in where) for where in new)
    return f"{words}, {len(new)} new" + (f", {placed} of them with a distance" if placed else ", by their names alone")


def _places(evidence: Evidence, named: list[Named]) -> tuple[list[Place], list[Place]]:
    """(all of them, those that are new)"""
    known = {p.name.lower(): p for p in evidence.places}
    every, new = [], []
    for name, (latitude_deg, longitude_deg, distance_m) in named:
        place = known.get(name.lower())
        if place is None:
            place = Place(name=name, latitude_deg=latitude_deg, longitude_deg=longitude_deg, distance_m=distance_m)
            new.append(place)
        every.append(place)
    return every, new


def _runs(evidence: Evidence, v: dict[str, Any], places: list[str], channel_hz: float | None) -> list[Run]:
    """A run for every antenna in every mode; twice, in swapped order, where the whole way is gone with each."""
    sets = list(product(v["modes"] or [""], v["antennas"]))
    if v["order"] == "whole":
        sets += sets[::-1]
    number = max((run.number for run in evidence.runs), default=0)
    plan = " ".join([v["order"], *places, f"#{number + 1}"])
    states = {a.id: a.state.id for a in evidence.antennas}
    return [
        Run(
            number=number + k,
            antenna_id=antenna_id,
            state_id=states[antenna_id],
            manner="places",
            power_w=v["power"],
            channel_hz=channel_hz,
            mode=mode,
            listening=v["end"],
            plan=plan,
        )
        for k, (mode, antenna_id) in enumerate(sets, 1)
    ]
