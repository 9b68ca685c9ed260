"""What places, runs, readings and logs can't declare of their sheets."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial
from typing import Any

from tallmast.findings.cautions import for_manner
from tallmast.findings.levels.pieces import Drawer, feed_loss
from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import READ_ON, DistanceNote, Log, Place, Reading, Record, Run, new_id
from tallmast.units import read, show
from tallmast.units.quantity import DISTANCE, WHERE

from ..session import Session
from ..sheets.fields import Field, FieldError
from ..sheets.named import branches_field
from ..sheets.record_sheet import RecordSheet, Values, choices_of, named_once
from .log_forms import log_form
from .recording_forms import RECORDING
from .reports import meant, report_words, reports_of
from .where import place_at

# Places

PARTS = [(None, "a place on the way"), ("home", "where the antennas stand"), ("wanted", "the place to be reached")]


def _position_field(session: Session, old: Place | None) -> tuple[str, Field]:
    evidence = session.evidence
    places = {p.name.lower(): p.position for p in evidence.places if p.position is not None}
    home = evidence.home.name.lower() if evidence.home else ""
    here = WHERE.write((old.latitude_deg, old.longitude_deg, old.distance_m)) if old else ""
    hint = "1.5 miles · 60 m east of the barn · 57.9050, -11.2022 · empty: only its name is known"
    reader = partial(place_at, places=places, home=home)
    return "latitude_deg", Field("position", "Where it is", reader, WHERE.echo, here, hint)


def _place_fields(session: Session, old: Place | None) -> list[tuple[str, Field]]:
    """Its part in the question, which is the question's; and a distance that somebody noted, a record of its own."""
    evidence, part = session.evidence, None
    q = evidence.question
    if q is not None and old is not None:
        part = "home" if q.home_place_id == old.id else "wanted" if q.wanted_place_id == old.id else None
    elif q is not None and not q.home_place_id:
        part = None if evidence.places or evidence.runs else "home"
    words = "Distance from home, if somebody noted one"
    return [
        _position_field(session, old),
        ("height_m", Field("part", "It is", choices=PARTS, chosen=part)),
        (
            "height_m",
            Field(
                "typed", words, lambda t: read.length(t, "km"), DISTANCE.echo, hint="3.9 km; the fixes will check it"
            ),
        ),
    ]


def _with_place(place: Place, values: Values, session: Session) -> Sequence[Record]:
    """The question, where its part in it changed, and the distance noted."""
    out: list[Record] = []
    q, typed = session.evidence.question, values["sheet:typed"]
    if q is not None:
        parts = {"home_place_id": q.home_place_id, "wanted_place_id": q.wanted_place_id}
        # Distances count from home: what is known by one, or by its name alone, is a place on the way.
        part = values["sheet:part"] if place.position is not None or values["sheet:part"] == "wanted" else None
        for key, place_id in parts.items():
            if key == f"{part}_place_id":
                parts[key] = place.id
            elif place_id == place.id:
                parts[key] = None
        if q.revised(**parts) != q:
            out.append(q.revised(**parts))
    if typed:
        home = q.home_place_id if q else None
        if home is None or home == place.id:
            raise FieldError("typed", "Say first where the antennas stand; a distance needs both ends.")
        if typed <= 0:
            raise FieldError("typed", "A distance is above zero.")
        out.append(DistanceNote(from_place_id=home, to_place_id=place.id, distance_m=typed))
    return out


def _positioned(values: Values, old: Place | None, session: Session) -> Values:
    latitude_deg, longitude_deg, distance_m = values["latitude_deg"] or (None, None, None)
    return {"latitude_deg": latitude_deg, "longitude_deg": longitude_deg, "distance_m": distance_m}


def _where_words(place: Place) -> str:
    return WHERE.echo((place.latitude_deg, place.longitude_deg, place.distance_m))


PLACE = RecordSheet(
    Place,
    "A place",
    words=lambda place, old, evidence: ", ".join(filter(None, (f"place {place.name}", _where_words(place)))),
    opened=lambda place, evidence: "A place",
    check=named_once(Place, " among the places"),
    own=_place_fields,
    work_out=_positioned,
    also=_with_place,
    removed_as=lambda place: f"place {place.name}",
    again=True,
)

# Runs


def _pads_in_chain(session: Session) -> float:
    """All attenuation that lies in the chain as it is set up, in tenths: what a new run is likely to have."""
    near, question = session.evidence.home_end, session.question
    if near is None or question is None:
        return 0.0
    return round(near.pad_db + feed_loss(Drawer(session.evidence, question.centre_hz), near.placed).pad_db, 1)


SAME_AGAIN = (
    "manner",
    "power_w",
    "pad_db",
    "channel_hz",
    "rate",
    "place_id",
    "path",
    "height_m",
    "battery",
    "weather",
    "far_antenna_id",
    "mode",
    "listener",
    "day",
    "other",
    "read_on",
    "over",
)


def _frequency(session: Session, run: Run | None) -> float:
    """That of a run: of its channel, or of the question's first band; 0 where neither is known."""
    question = session.evidence.question
    return (run.channel_hz if run is not None else None) or (question.bands[0].centre_hz if question else 0.0)


def _next_run(session: Session) -> Values:
    """Everything is carried over from the run before but the antenna, and the channel where another band is looked at."""
    evidence = session.evidence
    begun: Values = {"antenna_id": session.focus_antenna.id if session.focus_antenna else None}
    if evidence.runs:
        last = evidence.runs[-1]
        carried = {name: getattr(last, name) for name in SAME_AGAIN}
        whole, channel_hz = evidence.question, session.channel_hz
        if whole is not None and channel_hz and whole.band_of(_frequency(session, last)) != whole.band_of(channel_hz):
            carried["channel_hz"] = channel_hz
        return begun | carried
    return begun | {
        "channel_hz": session.channel_hz,
        "power_w": evidence.home_end.power_w if evidence.home_end else None,
        "pad_db": _pads_in_chain(session),
        "place_id": evidence.question.home_place_id if evidence.question else None,
    }


def _numbered(values: Values, old: Run | None, session: Session) -> Values:
    number = old.number if old else max((r.number for r in session.evidence.runs), default=0) + 1
    return {"number": number, "branches": values["branches"] or []}


def _run_fields(session: Session, old: Run | None) -> list[tuple[str, Field]]:
    before = old or (session.evidence.runs[-1] if session.evidence.runs else None)
    words = "Antennas connected, and how they were held, where that differs"
    return branches_field(session, before.branches if before else [], words, ends=True)


RUN = RecordSheet(
    Run,
    "A run",
    words=lambda run, old, evidence: (
        f"run {run.number}: {evidence.title(run.antenna_id)}"
        + (f", {show.power(run.power_w)}" if run.power_w else "")
        + f", pads {run.pad_db:g} dB"
    ),
    opened=lambda run, evidence: f"Run {run.number}",
    note="Change one thing at a time. Stay clear of the antenna while it transmits; see rung 3 for the distance.",
    carried=_next_run,
    own=_run_fields,
    work_out=_numbered,
    minded=("manner", for_manner),
    again=True,
)

# Readings


def _reading_fields(session: Session, old: Reading | None) -> list[tuple[str, Field]]:
    """What was heard is read with the displays that were stepped; where it was heard is any place but home."""
    evidence = session.evidence
    home = evidence.question.home_place_id if evidence.question else None
    places = choices_of(session, "place")
    readings = evidence.all(Reading)
    place = old.place_id if old else readings[-1].place_id if readings else None
    run = evidence.get(Run, old.run_id) if old else evidence.runs[-1] if evidence.runs else None
    bare = READ_ON[run.read_on] if run is not None and run.read_on else ""

    def heard(text: str) -> str:
        _reports(session, text, run)
        return text

    def echo(text: str) -> str:
        displays = session.climb.displays if session.climb else {}
        try:
            return " · ".join(report_words(meant(r, run), displays) for r in _reports(session, text, run))
        except read.UnitError:
            return "write its unit, or say in the run what a bare number means"

    return [
        (
            "as_typed",
            Field(
                "what",
                f"What was heard; a bare number is {bare}" if bare else "What was heard",
                heard,
                echo,
                old.as_typed if old else "",
                "-97 dBm · 59, 57, nothing · 3 bars · 31 Mbit/s · barely · snow",
                True,
            ),
        ),
        ("place_id", Field("place", "At", choices=[p for p in places if p[0] != home] or places, chosen=place)),
    ]


def _next_reading(session: Session) -> Values:
    readings, runs = session.evidence.all(Reading), session.evidence.runs
    return {"run_id": runs[-1].id if runs else None, **({"end": readings[-1].end} if readings else {})}


def _noted(values: Values, old: Reading | None, session: Session) -> None:
    if values["place_id"] is None:
        raise FieldError("place", "Add the place first, by its coordinates.")


def _heard(values: Values, old: Reading | None, session: Session) -> Values:
    try:
        first, *more = _meant(values, values["run_id"], session)
    except read.UnitError as error:
        raise FieldError("what", str(error)) from error
    if more and old is not None:
        raise FieldError("what", "This is one reading: write the others as new ones (N).")
    return {"as_typed": report_words(first), **first}


def _reports(session: Session, text: str, run: Run | None) -> list[dict[str, Any]]:
    return reports_of(text, _frequency(session, run), session.climb.displays if session.climb else {})


def _meant(values: Values, run_id: str, session: Session) -> list[dict[str, Any]]:
    """The run may have been chosen after the reading was typed: what S9 is, and what a bare number, is its own."""
    run = session.evidence.get(Run, run_id)
    return [meant(report, run) for report in _reports(session, values["sheet:what"], run)]


def _attempts(reading: Reading, values: Values, session: Session) -> list[Reading]:
    """The further attempts of one line, each a reading of its own."""
    return [
        reading.revised(**{"id": new_id(), "as_typed": report_words(report), **report})
        for report in _meant(values, reading.run_id, session)[1:]
    ]


def _reading_words(reading: Reading, old: Reading | None, evidence: Evidence) -> str:
    run = evidence.get(Run, reading.run_id)
    end = "far" if reading.end == "away" else "home"
    where = evidence.title(reading.place_id)
    return f"Run {run.number if run else '?'}, {where}: {end} end {reading.as_typed}"


READING = RecordSheet(
    Reading,
    "A reading",
    words=_reading_words,
    opened=lambda reading, evidence: "A reading",
    carried=_next_reading,
    check=_noted,
    own=_reading_fields,
    work_out=_heard,
    also=_attempts,
    removed_as=lambda reading: "a reading",
    again=True,
)

LOG = RecordSheet(Log, "A log", by_hand=log_form)

SHEETS = (PLACE, RUN, READING, LOG, RECORDING)
