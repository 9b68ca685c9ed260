"""Field notes of a table become places, runs and readings, as if each had been typed."""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import Any, TypeVar

from tallmast.formats.field_notes import Note, NotesFile
from tallmast.notebook.entry import Entry, RawFile
from tallmast.notebook.records import LISTENING_ENDS, Antenna, DistanceNote, ListeningEnd, Place, Reading, Record, Run
from tallmast.units import read, show
from tallmast.units.quantity import POWER

from ..session import Session
from ..sheets.fields import Field, FieldError
from ..sheets.shelving import FIELD, Shelving, antenna_field, new_words, once
from .calls_forms import NOWHERE, places_of
from .reports import meant, report_words, reports_of
from .where import place_at

T = TypeVar("T")
SAID = ("mode", "day", "weather", "battery", "listener")
"""Factors of a run as the notes have them."""
NEAR = 0.1
"""Two distances that people told may differ by such a share."""
ISO_DATE = re.compile(r"\d{4}-\d\d-\d\d")
MADE_A_DATE = "Was it 5/9, and the spreadsheet made a date of it? Write 59"


def notes_fields(session: Session) -> list[Field]:
    """What no column may say: the antenna, the end, the power."""
    runs = session.evidence.runs
    return [
        antenna_field(session),
        Field(
            "listening",
            "Who listened, where no column says it",
            choices=list(LISTENING_ENDS.items()),
            chosen=runs[-1].listening if runs else "away",
        ),
        Field("sent", "Power, if it is known", POWER.read, POWER.echo, "", "5 W", seldom=True),
    ]


def notes_said(session: Session, read: NotesFile) -> str:
    """What would be new in the notebook by them."""
    there = {p.name.casefold() for p in session.evidence.places}
    places = once(n.place for n in read.rows if n.place.casefold() not in there)
    parts = [
        f"{show.upper_first(show.count(len(read.rows), 'report'))} in it.",
        new_words(session, (n.antenna for n in read.rows)),
        f"New {'place' if len(places) == 1 else 'places'}: {show.join(places)}." if places else "",
    ]
    return " ".join(filter(None, parts))


def notes_entry(session: Session, v: dict[str, Any], read_: NotesFile, raw: RawFile) -> Entry:
    """All of it in one act. Raises `FieldError` with the line of what can't be read."""
    filing = _Filing(session, v, read_)
    for note in read_.rows:
        filing.file(note)
    filing.order()
    new = len([place for place in filing.changed.values() if place.id in filing.new])
    words = [
        show.count(len(filing.readings), "reading"),
        show.count(len({run.antenna_id for run in filing.runs.values()}), "antenna"),
        show.count(len(filing.there), "place") + (f", {new} of them new" if 0 < new < len(filing.there) else ""),
    ]
    records: list[Record] = [
        *filing.shelf.new,
        *filing.changed.values(),
        *filing.distances,
        *filing.runs.values(),
        *filing.readings,
    ]
    odd = (*filing.left, *read_.notes)
    told = f" ({'; '.join(odd)})" if odd else ""
    return Entry(f"Field notes {raw.name}: {words[0]} of {words[1]} at {words[2]}{told}", records, raw=[raw])


Setup = tuple[str, ...]
"""What one pass was made with: antenna and factors."""


class _Filing:
    """Finds for each note its place, its antenna and its run, or makes them."""

    def __init__(self, session: Session, v: dict[str, Any], read_: NotesFile) -> None:
        evidence = session.evidence
        self.session, self.v, self.read = session, v, read_
        self.shelf = Shelving(evidence)
        self.places = {p.name.casefold(): p for p in evidence.places}
        self.positions = {p.name.lower(): p.position for p in evidence.places if p.position is not None}
        self.home = evidence.home.name.casefold() if evidence.home else ""
        self.displays = session.climb.displays if session.climb else {}
        self.new: set[str] = set()
        self.there: dict[str, None] = {}
        """Places that something was heard at, by id, in the order passed."""
        self.changed: dict[str, Place] = {}
        """Those that are new, or known better."""
        self.distances: list[DistanceNote] = []
        self.left: list[str] = []
        """What they say otherwise than the notebook, which stands."""
        self.runs: dict[tuple[Setup, int], Run] = {}
        self.readings: list[Reading] = []
        self._visits: dict[tuple[Setup, str], int] = {}
        self._last: tuple[Setup, str] | None = None
        self._number = max((run.number for run in evidence.runs), default=0)
        self._turns: dict[str, int] = {}
        """How often the set-up changed at a place, by its id."""

    def file(self, note: Note) -> None:
        place, antenna = self._place(note), self._antenna(note)
        run = self._run(note, place, antenna)
        question, channel_hz = self.session.evidence.question, run.channel_hz
        frequency = channel_hz or (question.bands[0].centre_hz if question else 0.0)
        reports = self._read(note, "heard", note.heard, lambda text: reports_of(text, frequency, self.displays))
        for told in self._read(note, "heard", note.heard, lambda text: [meant(report, run) for report in reports]):
            self.readings.append(
                Reading(
                    run_id=run.id,
                    place_id=place.id,
                    end=self._end(note),
                    at=note.time,
                    note=note.remark,
                    **{"as_typed": report_words(told), **told},
                )
            )

    def order(self) -> None:
        """Antennas that took turns over the places were in an order there, and not run by run."""
        if self.read.in_turn and 2 * sum(n > 0 for n in self._turns.values()) >= max(len(self.there), 1):
            plan = " ".join(["each", *self.there, f"#{self._number}"])
            self.runs = {key: run.revised(plan=plan) for key, run in self.runs.items()}

    def _end(self, note: Note) -> ListeningEnd:
        usual: ListeningEnd = "home" if self.v["listening"] == "home" else "away"
        if note.end == "other":
            return "away" if usual == "home" else "home"
        return "home" if (note.end or usual) == "home" else "away"

    def _read(self, note: Note, key: str, text: str, reader: Callable[[str], T]) -> T:
        try:
            return reader(text)
        except read.UnitError as error:
            why = f"{error}. {MADE_A_DATE}" if key == "heard" and ISO_DATE.match(text) else str(error)
            raise FieldError(key, f"Line {note.line}, {note.place}: {why}") from error

    def _place(self, note: Note) -> Place:
        known = self.places.get(note.place.casefold())
        name, where = note.place, NOWHERE
        if note.where:
            where = self._read(note, "where", note.where, lambda t: place_at(t, self.positions, self.home))
        elif known is None:  # “ford 800 m”
            first, *more = self._read(note, "place", note.place, lambda t: places_of(t, self.positions, self.home))
            name, where = first if not more else (name, where)
        latitude_deg, longitude_deg, distance_m = where
        place = known or Place(name=name)
        if place.position is None and place.distance_m is None and where != NOWHERE:
            place = place.revised(latitude_deg=latitude_deg, longitude_deg=longitude_deg, distance_m=distance_m)
            self.changed[place.id] = place
        elif known is None:
            self.changed[place.id] = place
        elif distance_m is not None and place.position is not None and self.home and place.id not in self.there:
            # The fixes say how far it is; they are asked whether this is right.
            home = self.places[self.home]
            self.distances.append(DistanceNote(from_place_id=home.id, to_place_id=place.id, distance_m=distance_m))
        elif place.id not in self.there and _apart(place.distance_m, distance_m):
            before, here = show.distance(place.distance_m or 0.0), show.distance(distance_m or 0.0)
            self.left.append(f"{place.name} stays at {before}, though {here} stands in them")
        if known is None:
            self.new.add(place.id)
        self.places[note.place.casefold()] = place
        if place.position is not None:
            self.positions[place.name.lower()] = place.position
        self.there[place.id] = None
        return place

    def _antenna(self, note: Note) -> Antenna:
        name = note.antenna or self.v[FIELD]
        if not name:
            text = f"Line {note.line} says no antenna: write which it was, or choose the column that says it."
            raise FieldError(FIELD, text)
        return self.shelf.called(name)

    def _run(self, note: Note, place: Place, antenna: Antenna) -> Run:
        """The pass that a note is of: the same set-up at a place once more, after another, is a further pass."""
        setup = (antenna.id, *note.factors.values())
        here = (setup, place.id)
        if here != self._last:
            self._visits[here] = self._visits.get(here, 0) + 1
            if self._last is not None and self._last[1] == place.id:
                self._turns[place.id] = self._turns.get(place.id, 0) + 1
            self._last = here
        key = (setup, 1 if note.factors.get("pass") else self._visits[here])
        if key not in self.runs:
            self._number += 1
            power = note.factors.get("power", "")
            said: dict[str, Any] = {name: note.factors.get(name, "") for name in SAID}
            self.runs[key] = Run(
                number=self._number,
                antenna_id=antenna.id,
                state_id=antenna.state.id,
                manner="places",
                power_w=self._read(note, "power", power, POWER.read) if power else self.v["sent"],
                channel_hz=self.session.channel_hz,
                **said,
                read_on=self.read.read_on,
                listening=self._end(note),
            )
        return self.runs[key]


def _apart(before_m: float | None, here_m: float | None) -> bool:
    """Whether two distances that people told, where both did, are not the same."""
    return before_m is not None and here_m is not None and abs(here_m - before_m) > NEAR * before_m
