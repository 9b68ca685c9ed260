"""What places, runs, readings and logs can't declare of their sheets."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from functools import partial
from typing import Any

from tallmast.findings.levels.display import DisplayFinding
from tallmast.findings.levels.pieces import Drawer, feed_loss
from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import DistanceNote, Log, Place, Reading, Record, Run, new_id
from tallmast.physics.geodesy import destination
from tallmast.units import read, show
from tallmast.units.quantity import DISTANCE, POSITION
from tallmast.units.spoken import said

from ..session import Session
from ..sheets.fields import Field, FieldError
from ..sheets.keeping import text_of
from ..sheets.record_sheet import RecordSheet, Values, choices_of, named_once
from .log_forms import log_form

# Places

PARTS = [(None, "a place on the way"), ("home", "where the antennas stand"), ("wanted", "the place to be reached")]


FARTHEST_M = 1e6
"""That anybody says how far and in which direction a place lies from another."""


def place_at(text: str, places: Mapping[str, tuple[float, float]], home: str = "") -> tuple[float, float]:
    """(latitude, longitude) as coordinates, or so far from a known place: `60 m east of the barn`, `1.5 miles NE`,
    `800 m at 215°`; from `home` where no place is named. Raises `UnitError`."""
    expected = "coordinates, or a distance and a direction from a place, such as 60 m east of the barn"
    found = re.fullmatch(
        r"(.*?\d\s*[a-z]+)\s+(?:at\s+|to the\s+)?(.+?)(?:\s+(?:of|from)\s+(?:the\s+)?(.+))?",
        text.strip(),
        re.IGNORECASE,
    )
    try:
        return read.position(text)
    except read.UnitError:
        if found is None:
            raise
    try:
        distance, bearing = read.length(found[1]), read.bearing(found[2])
    except read.UnitError as error:
        raise read.UnitError(expected, text) from error
    if not 0 < distance <= FARTHEST_M:
        raise read.UnitError(expected, text)
    name = (found[3] or home).strip().lower()
    if name not in places:
        raise read.UnitError(f"{expected}; {found[3] or 'home'} is not among the places", text)
    return destination(*places[name], bearing, distance)


def _position_field(session: Session, old: Place | None) -> tuple[str, Field]:
    evidence = session.evidence
    places = {p.name.lower(): (p.latitude_deg, p.longitude_deg) for p in evidence.places}
    home = evidence.home.name.lower() if evidence.home else ""
    here = text_of((old.latitude_deg, old.longitude_deg) if old else None, POSITION.write)
    hint = "57.9050, -11.2022 · 60 m east of the barn · 1.5 km NE"
    reader = partial(place_at, places=places, home=home)
    return "latitude_deg", Field("position", "Position", reader, POSITION.echo, here, hint, True)


def _place_fields(session: Session, old: Place | None) -> list[tuple[str, Field]]:
    """Its part in the question, which is the question's; and a distance that somebody noted, a record of its own."""
    q, part = session.evidence.question, None
    if q is not None and old is not None:
        part = "home" if q.home_place_id == old.id else "wanted" if q.wanted_place_id == old.id else None
    elif q is not None:
        part = "home" if not q.home_place_id else "wanted" if not q.wanted_place_id else None
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
        for key, place_id in parts.items():
            if key == f"{values['sheet:part']}_place_id":
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
    latitude_deg, longitude_deg = values["latitude_deg"]
    return {"latitude_deg": latitude_deg, "longitude_deg": longitude_deg}


PLACE = RecordSheet(
    Place,
    "A place",
    words=lambda place, old, evidence: f"place {place.name}, {show.position(place.latitude_deg, place.longitude_deg)}",
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
    chain, question = session.evidence.chain, session.evidence.question
    if chain is None or question is None:
        return 0.0
    return round(chain.pad_db + feed_loss(Drawer(session.evidence, question.centre_hz), chain.placed).pad_db, 1)


SAME_AGAIN = ("manner", "power_w", "pad_db", "channel_hz", "rate", "place_id", "path", "height_m", "battery", "weather")


def _next_run(session: Session) -> Values:
    """Everything is carried over from the run before but the antenna."""
    evidence = session.evidence
    begun: Values = {"antenna_id": session.focus_antenna.id if session.focus_antenna else None}
    if evidence.runs:
        last = evidence.runs[-1]
        return begun | {name: getattr(last, name) for name in SAME_AGAIN}
    return begun | {
        "power_w": evidence.chain.power_w if evidence.chain else None,
        "pad_db": _pads_in_chain(session),
        "place_id": evidence.question.home_place_id if evidence.question else None,
    }


def _numbered(values: Values, old: Run | None, session: Session) -> Values:
    return {"number": old.number if old else max((r.number for r in session.evidence.runs), default=0) + 1}


RUN = RecordSheet(
    Run,
    "A run",
    words=lambda run, old, evidence: (
        f"run {run.number}: {evidence.title(run.antenna_id)}, {show.power(run.power_w)}, pads {run.pad_db:g} dB"
    ),
    opened=lambda run, evidence: f"Run {run.number}",
    note="Change one thing at a time. Stay clear of the antenna while it transmits; see rung 3 for the distance.",
    carried=_next_run,
    work_out=_numbered,
    again=True,
)

# Readings

SHOWN_AS: dict[str, str] = {
    "bars": r"bars?",
    "bit rate": r"mbit/s|mbps|mb/s",
    "packet rate": r"%|percent|packets?",
    "picture grade": r"grade|picture",
    "delay": r"ms",
    "exposure meter": r"v/m|mw/m²|mw/m2|µw/cm²|µw/cm2|uw/cm2",
}
"""How people write what a kind of display shows."""


def shown_on(text: str, displays: Mapping[str, DisplayFinding]) -> tuple[str, float] | None:
    """(receiver, reading) of what a stepped display showed: `3 bars`, `24 Mbit/s`, `85 %`, `S7`, `3 on handset`."""
    body = read.clean(text).lower()
    for receiver, found in displays.items():
        scale, name = found.curve.run.scale, re.escape(receiver.lower())
        units = SHOWN_AS.get(scale, "")
        forms = [rf"({read.NUMBER})\s*(?:{units})?\s+(?:on|by)\s+(?:the\s+)?{name}"] + (
            [rf"({read.NUMBER})\s*(?:{units})"] if units else []
        )
        if scale == "S units":
            forms = [rf"s\s*({read.NUMBER})(?:\s+(?:on|by)\s+(?:the\s+)?{name})?"]
        elif scale == "readability":
            forms.append(r"(?:r\s*)?([1-5])(?:\s*(?:of|/)\s*5)?")
        for form in forms:
            match = re.fullmatch(form, body)
            if match:
                return receiver, read.number(match[1])
    return None


def report_of(text: str, frequency_hz: float, displays: Mapping[str, DisplayFinding] | None = None) -> dict[str, Any]:
    """What somebody said of a signal: a level, heard, not heard, a readability, or what a stepped display showed.

    `-97 dBm`, `S7`; `59`, `R4 S7`, `4 of 5`, `barely`, `nothing`, `h`, `n` as spoken (`units.spoken`); `3 bars` where a
    display was stepped. Raises `UnitError`, also for a bare number above 5: nobody hears +36 dBm.
    """
    shown = shown_on(text, displays or {})
    if shown is not None and displays is not None:
        spoken = int(shown[1]) if displays[shown[0]].curve.run.scale == "readability" else None
        return {"heard": True, "level_dbm": None, "readability": spoken, "receiver": shown[0], "shown": shown[1]}
    try:
        told = said(text)
    except read.UnitError:
        pass
    else:
        # An S unit is a level where the band says what S9 is.
        level = read.level(told.strength, frequency_hz) if told.strength and frequency_hz else None
        words = text.strip() if len(text.strip()) > 1 else ""
        return {
            "heard": told.heard,
            "level_dbm": level,
            "readability": told.readability,
            **({"as_typed": words} if words else {}),
        }
    if re.fullmatch(r"\+?\d+(?:[.,]\d+)?", read.clean(text)):
        raise read.UnitError(f"a unit: −{text.strip()} dBm, or what is it in", text)
    try:
        return {"heard": True, "level_dbm": read.level(text, frequency_hz), "readability": None}
    except read.UnitError:
        raise read.UnitError(
            "a level (−97 dBm, S7), heard, not heard, or as spoken (59, 4 of 5, barely)", text
        ) from None


def reports_of(
    text: str, frequency_hz: float, displays: Mapping[str, DisplayFinding] | None = None
) -> list[dict[str, Any]]:
    """Several attempts in one line: `59, 57, nothing`, `-97; -99; -95`. A comma without a blank is a decimal mark.
    Raises `UnitError` at the first that can't be read."""
    parts = [part for part in re.split(r"\s*;\s*|,\s+", text.strip()) if part]
    return [report_of(part, frequency_hz, displays) for part in parts or [text]]


def report_words(report: dict[str, Any], displays: Mapping[str, DisplayFinding] | None = None) -> str:
    if report.get("shown") is not None:
        words = f"{report['shown']:g} on {report['receiver']}"
        found = (displays or {}).get(report["receiver"])
        return f"{words}: {found.curve.read(report['shown']).words}" if found is not None else words
    if report["level_dbm"] is not None:
        level = f"{show.fixed(report['level_dbm'], 1)} dBm"
        return f"readability {report['readability']}, {level}" if report["readability"] else level
    if report["readability"] is not None:
        return f"{report['readability']} of 5"
    return "heard" if report["heard"] else "not heard"


def _reading_fields(session: Session, old: Reading | None) -> list[tuple[str, Field]]:
    """What was heard is read with the displays that were stepped; where it was heard is any place but home."""
    evidence = session.evidence
    question = evidence.question
    frequency = question.centre_hz if question else 0.0
    displays = session.climb.displays if session.climb else {}
    home = question.home_place_id if question else None
    places = choices_of(session, "place")
    readings = evidence.all(Reading)
    place = old.place_id if old else readings[-1].place_id if readings else None
    return [
        (
            "as_typed",
            Field(
                "what",
                "What was heard",
                lambda t: reports_of(t, frequency, displays),
                lambda all_: " · ".join(report_words(r, displays) for r in all_),
                old.as_typed if old else "",
                "-97 dBm · S7 · 59, 57, nothing · 3 bars · 4 of 5 · barely",
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
    first, *more = values["sheet:what"]
    if more and old is not None:
        raise FieldError("what", "This is one reading: write the others as new ones (N).")
    return {"as_typed": report_words(first), **first}


def _attempts(reading: Reading, values: Values, session: Session) -> list[Reading]:
    """The further attempts of one line, each a reading of its own."""
    blank = {"level_dbm": None, "readability": None, "shown": None, "receiver": ""}
    return [
        reading.revised(**{**blank, "id": new_id(), "as_typed": report_words(report), **report})
        for report in values["sheet:what"][1:]
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

SHEETS = (PLACE, RUN, READING, LOG)
