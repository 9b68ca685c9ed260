"""Sheets for places, distances, runs, readings and logs."""

from __future__ import annotations

import re
from collections.abc import Mapping
from typing import Any, get_args

from tallmast.findings.levels.display import DisplayFinding
from tallmast.findings.levels.pieces import Drawer, feed
from tallmast.notebook.records import DistanceNote, Place, Reading, Run, RunEnd, RunKind
from tallmast.units import read, show

from ..entry import Field, FieldError, Form
from ..records import antenna_choices, decibels, history, keep, made, reason_fields, remover, text_of
from ..session import Session


def place_form(session: Session, old: Place | None = None) -> Form:
    """A place by its coordinates; the first is where the antennas stand, unless said otherwise."""
    question = session.evidence.question
    part = None
    if question and old:
        part = "home" if question.home_place_id == old.id else "wanted" if question.wanted_place_id == old.id else None
    elif question:
        part = "home" if not question.home_place_id else "wanted" if not question.wanted_place_id else None
    fields = [
        Field("name", "Name", read.plain, initial=old.name if old else "", hint="Kelp Rock", needed=True),
        Field(
            "position",
            "Position",
            read.position,
            lambda v: show.position(*v),
            text_of((old.latitude_deg, old.longitude_deg) if old else None, lambda v: f"{v[0]:.6f}, {v[1]:.6f}"),
            "57.9050, -11.2022 or 57°54.3'N 11 12 08 W",
            True,
        ),
        Field(
            "height",
            "Antenna above ground or water",
            read.length,
            show.length,
            text_of(old.height_m if old else None, show.length),
            "2 m or 6 ft",
        ),
        Field(
            "part",
            "It is",
            choices=[
                (None, "a place on the way"),
                ("home", "where the antennas stand"),
                ("wanted", "the place to be reached"),
            ],
            chosen=part,
        ),
        Field(
            "typed",
            "Distance from home, if somebody noted one",
            lambda t: read.length(t, "km"),
            show.distance,
            hint="3.9 km; the fixes will check it",
        ),
        Field("note", "Note", initial=old.note if old else "", hint="ridge behind it"),
        *reason_fields(old),
    ]

    def kept(v: dict[str, Any]) -> bool:
        if any(
            p.name.lower() == v["name"].lower() and (old is None or p.id != old.id) for p in session.evidence.places
        ):
            raise FieldError("name", f"There is a place called {v['name']} already.")
        lat, lon = v["position"]
        record = made(
            Place,
            old,
            name=v["name"],
            latitude_deg=lat,
            longitude_deg=lon,
            height_m=v["height"] if v["height"] is not None else 2.0,
            note=v["note"] or "",
        )
        also: list[Any] = []
        q = session.evidence.question
        home_id = q.home_place_id if q else None
        if q is not None:
            parts = {"home_place_id": q.home_place_id, "wanted_place_id": q.wanted_place_id}
            for key, place_id in parts.items():
                if key.startswith(v["part"] or "-"):
                    parts[key] = record.id
                elif place_id == record.id:
                    parts[key] = None
            new = q.revised(**parts)
            if new != q:
                also.append(new)
        if v["typed"]:
            if home_id is None or home_id == record.id:
                raise FieldError("typed", "Say first where the antennas stand; a distance needs both ends.")
            if v["typed"] <= 0:
                raise FieldError("typed", "A distance is above zero.")
            also.append(DistanceNote(from_place_id=home_id, to_place_id=record.id, distance_m=v["typed"]))
        words = f"place {record.name}, {show.position(lat, lon)}"
        return keep(session, show.upper_first(words) if old is None else words, record, old, v, also)

    return Form(
        "A place",
        fields,
        kept,
        remove=remover(session, old, f"place {old.name}" if old else ""),
        again=lambda: place_form(session),
        history=history(session, old),
    )


def _pads_in_chain(session: Session) -> float:
    """All attenuation that lies in the chain as it is set up, in tenths: what a new run is likely to have."""
    chain, question = session.evidence.chain, session.evidence.question
    if chain is None or question is None:
        return 0.0
    return round(chain.pad_db + feed(Drawer(session.evidence, question.centre_hz), chain.placed).pad_db, 1)


def run_form(session: Session, old: Run | None = None) -> Form:
    """A run: one antenna, one set of factors; everything is carried over from the run before but the antenna."""
    evidence = session.evidence
    last = old or (evidence.runs[-1] if evidence.runs else None)
    chain, question = evidence.chain, evidence.question
    power = last.power_w if last else chain.power_w if chain else None
    pad = last.pad_db if last else _pads_in_chain(session)
    home = last.place_id if last else question.home_place_id if question else None
    focus = old.antenna_id if old else (session.focus_antenna.id if session.focus_antenna else None)
    number = old.number if old else (max((r.number for r in evidence.runs), default=0) + 1)
    fields = [
        Field("antenna", "Antenna", choices=antenna_choices(session), chosen=focus),
        Field("manner", "How", choices=[(k, k) for k in get_args(RunKind)], chosen=last.manner if last else "places"),
        Field("power", "Power", read.power, show.power, text_of(power, show.power), "10 mW", True),
        Field("pad", "Pads in all", read.loss, lambda v: f"{v:g} dB", text_of(pad, decibels), "16 dB"),
        Field(
            "channel",
            "Channel",
            read.frequency,
            show.frequency,
            text_of(last.channel_hz if last else None, show.frequency),
            "868.95 MHz",
        ),
        Field("rate", "Rate", initial=last.rate if last else "", hint="38k4"),
        Field("place", "From", choices=[(None, "not noted"), *((p.id, p.name) for p in evidence.places)], chosen=home),
        Field("path", "Path", initial=last.path if last else "", hint="A"),
        Field(
            "height",
            "Antenna height",
            read.length,
            show.length,
            text_of(last.height_m if last else None, show.length),
            "6 m",
        ),
        Field("battery", "Battery", initial=last.battery if last else "", hint="fresh"),
        Field("weather", "Weather", initial=last.weather if last else "", hint="dry"),
        Field(
            "ended",
            "How it ended",
            choices=[(k, k) for k in get_args(RunEnd)],
            chosen=old.ended if old else "turned back as planned",
        ),
        *(
            [
                Field(
                    "taken_in",
                    "Compare it all the same, because",
                    initial=old.taken_in_reason,
                    hint="only if you know that the change does nothing",
                )
            ]
            if old
            else []
        ),
        *reason_fields(old),
    ]

    def kept(v: dict[str, Any]) -> bool:
        antenna = session.evidence.antenna(v["antenna"])
        if antenna is None:
            raise FieldError("antenna", "Put the antenna on the shelf first.")
        record = made(
            Run,
            old,
            number=number,
            manner=v["manner"],
            antenna_id=antenna.id,
            state_id=old.state_id if old and old.antenna_id == antenna.id else antenna.state.id,
            power_w=v["power"],
            pad_db=v["pad"] or 0.0,
            rate=v["rate"] or "",
            channel_hz=v["channel"],
            place_id=v["place"],
            path=v["path"] or "",
            height_m=v["height"],
            battery=v["battery"] or "",
            weather=v["weather"] or "",
            ended=v["ended"],
            taken_in_reason=v.get("taken_in") or "",
        )
        return keep(
            session,
            f"{'run' if old else 'Run'} {number}: {antenna.name}, {show.power(record.power_w)}, pads {record.pad_db:g} dB",
            record,
            old,
            v,
        )

    note = "Change one thing at a time. Stay clear of the antenna while it transmits; see rung 3 for the distance."
    return Form(
        f"Run {number}",
        fields,
        kept,
        note,
        remove=remover(session, old, f"run {number}"),
        again=lambda: run_form(session),
        history=history(session, old),
    )


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

    `-97 dBm`, `S7`, `h`, `heard`, `n`, `not heard`, `4 of 5`, `4/5`, `r4`; `3 bars` where a display was stepped.
    """
    shown = shown_on(text, displays or {})
    if shown is not None and displays is not None:
        spoken = int(shown[1]) if displays[shown[0]].curve.run.scale == "readability" else None
        return {"heard": True, "level_dbm": None, "readability": spoken, "receiver": shown[0], "shown": shown[1]}
    body = read.clean(text).lower()
    if body in ("h", "heard", "yes"):
        return {"heard": True, "level_dbm": None, "readability": None}
    if body in ("n", "not heard", "nothing", "no"):
        return {"heard": False, "level_dbm": None, "readability": None}
    grade = re.fullmatch(r"(?:r\s*)?([1-5])(?:\s*(?:of|/)\s*5)?", body)
    if grade:
        return {"heard": True, "level_dbm": None, "readability": int(grade[1])}
    try:
        return {"heard": True, "level_dbm": read.level(body, frequency_hz), "readability": None}
    except read.UnitError:
        raise read.UnitError("a level (−97 dBm, S7), heard, not heard, or a readability (4 of 5)", text) from None


def report_words(report: dict[str, Any], displays: Mapping[str, DisplayFinding] | None = None) -> str:
    if report.get("shown") is not None:
        words = f"{report['shown']:g} on {report['receiver']}"
        found = (displays or {}).get(report["receiver"])
        return f"{words}: {found.curve.read(report['shown']).words}" if found is not None else words
    if report["level_dbm"] is not None:
        return f"{show.fixed(report['level_dbm'], 1)} dBm"
    if report["readability"] is not None:
        return f"{report['readability']} of 5"
    return "heard" if report["heard"] else "not heard"


def reading_form(
    session: Session, old: Reading | None = None, run_id: str | None = None, place_id: str | None = None
) -> Form:
    """What one end noted at a place."""
    evidence = session.evidence
    question = evidence.question
    frequency = question.centre_hz if question else 0.0
    displays = session.climb.displays if session.climb else {}
    all_readings = evidence.all(Reading)
    last = all_readings[-1] if all_readings else None
    runs = [(r.id, f"{r.number}: {a.name if (a := evidence.antenna(r.antenna_id)) else '?'}") for r in evidence.runs]
    home = question.home_place_id if question else None
    places = [(p.id, p.name) for p in evidence.places if p.id != home] or [(p.id, p.name) for p in evidence.places]
    run = old.run_id if old else run_id or (evidence.runs[-1].id if evidence.runs else None)
    place = old.place_id if old else place_id or (last.place_id if last else None)
    fields = [
        Field(
            "what",
            "What was heard",
            lambda t: report_of(t, frequency, displays),
            lambda r: report_words(r, displays),
            old.as_typed if old else "",
            "-97 dBm · S7 · 3 bars · 4 of 5 · heard · not heard",
            True,
        ),
        Field("run", "Run", choices=runs, chosen=run),
        Field("place", "At", choices=places, chosen=place),
        Field(
            "end",
            "Who listened",
            choices=[("away", "the far end, out there"), ("home", "the home end")],
            chosen=old.end if old else (last.end if last else "away"),
        ),
        Field("note", "Note", initial=old.note if old else "", hint="neighbour on the next channel"),
        *reason_fields(old),
    ]

    def kept(v: dict[str, Any]) -> bool:
        if v["run"] is None:
            raise FieldError("run", "Note the run first: which antenna, which power.")
        if v["place"] is None:
            raise FieldError("place", "Add the place first, by its coordinates.")
        where, which = session.evidence.place(v["place"]), session.evidence.get(Run, v["run"])
        record = made(
            Reading,
            old,
            run_id=v["run"],
            place_id=v["place"],
            end=v["end"],
            as_typed=report_words(v["what"]),
            note=v["note"] or "",
            **v["what"],
        )
        words = f"Run {which.number if which else '?'}, {where.name if where else '?'}: {'far' if record.end == 'away' else 'home'} end {report_words(v['what'])}"
        return keep(session, words, record, old, v)

    return Form(
        "A reading",
        fields,
        kept,
        remove=remover(session, old, "a reading"),
        again=lambda: reading_form(session, None, run_id),
        history=history(session, old),
    )
