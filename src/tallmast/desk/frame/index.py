"""What can be found with Ctrl K, and how: acts by what practitioners call them, every record with where it belongs, help."""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from typing import Any, NamedTuple

from tallmast.frozen import Frozen
from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import KINDS, Record

from .help import HELP

MOST = 60
"""More rows than this nobody looks through."""

INSIDE_A_WORD = 5
"""How far from a query is what has its letters only inside other words."""

ALSO_CALLED: dict[str, str] = {
    "new": "start create question",
    "open": "load file",
    "demo": "example sample tutorial",
    "bring in": "import load touchstone s1p s2p csv gpx log track file drop spreadsheet notes table",
    "watch": "folder automatic import sweeps",
    "copy": "backup save as duplicate elsewhere",
    "save sweep": "export touchstone s1p csv",
    "report": "pdf html print summary result export",
    "bundle": "export zip csv json geojson raw data archive backup",
    "undo": "take back revert mistake",
    "redo": "again",
    "ask question": "band limit goal sector aim settings",
    "add antenna": "shelf new yagi dipole whip panel reference",
    "add piece": "drawer pad attenuator cable adapter filter preamp splitter coax lead",
    "radio": "transmitter receiver transceiver sensitivity rig set drawer",
    "add claim": "data sheet specification leaflet promised gain advertised",
    "new state": "cut trim bend sleeve modify shorten",
    "analyzer": "vna sweep s11 reflection return loss network calibrate calibration impedance",
    "meter reading": "swr vswr standing wave ratio match forward reflected power inline",
    "power and pads": "chain attenuator eirp erp transmit tx reduced exposure safety distance",
    "find pads": "attenuators which fail protect input",
    "verify pad": "substitution insertion loss attenuation check",
    "display run": "s meter bars rssi calibrate indicator signal strength",
    "noise": "floor preamp lna snr qrm interference sky man-made",
    "emitter": "interference blocking overload strong neighbour intermodulation",
    "field strength": "v/m e-field density exposure antenna factor",
    "comparison": "a b a ab test drift difference two things",
    "try steps": "what if staircase change",
    "in units": "convert dbm microvolt dbµv dbd dbi watt kelvin s-unit calculator",
    "far end": "receiver gateway gauge base station other station sensitivity",
    "obstacle": "ridge hill wood trees forest house building wall window terrain profile fresnel blocked obstruction",
    "neighbour": "interference cochannel adjacent two pilots c/i carrier capture selectivity isolation second sender",
    "conditions": "rain fog weather k factor refraction earth radius ground sea roughness fading availability",
    "place": "position coordinates location gps waypoint distance bearing map",
    "run": "range test walk drive boat flight field distance",
    "turn": "pattern rotate round clock directions beam front to back axial ratio polarization probe null direction finding",
    "range gain": "substitution gain transfer reference standard three antenna two antenna method dbi far field uncertainty budget",
    "turn keys": "single keys turn round outdoors bars grades directions clock",
    "turntable": "rotator positioner automatic measure azimuth cut instrument scpi polar live",
    "craft": "diversity pair advisor bank pitch roll attitude drone plane rover mixing receiver two antennas polarization loss tracker",
    "reading": "signal report rst level rssi heard not readability",
    "next band": "band bands switch other frequency dual multiband",
    "calls": "calls voice grid round spots who hears readability handheld spoken",
    "live": "single keys log quick outdoors",
    "trial": "two pilots interference capture break carrier selectivity repeat",
    "map": "coverage terrain heatmap area footprint",
    "over another": "interference carrier map two senders",
    "closer": "map zoom in nearer",
    "wider": "map zoom out farther",
    "save map": "coverage geotiff geojson kml export contour",
    "what if": "range more power budget",
    "hide": "show antenna visible",
    "look": "view smith impedance return loss picture other",
    "tape": "history log entries",
    "working": "uncertainty calculation how number",
    "night": "dark red",
    "sun": "bright outdoor contrast",
    "day": "light",
    "units": "feet miles metres kilometres",
    "help": "manual how explain",
    "keys": "shortcuts keyboard",
    "about": "version licence",
}
"""By an act's name, what else people call it or look for when they mean it."""


class Thing(NamedTuple):
    """Something that can be found: what it is called, where it belongs, and what stands for it. A tuple: there may be
    thousands, made anew after every act."""

    words: str
    where: str
    payload: Any
    key: str
    also: str
    """Further words that it is found by."""
    text: str
    """All its words in small letters."""


def thing(words: str, where: str, payload: Any, key: str = "", also: str = "") -> Thing:
    return Thing(words, where, payload, key, also, f"{words} {where} {also}".lower())


class HelpPage(Frozen, eq=True):
    """The help page of a rung."""

    rung: str


def acts(known: Iterable[tuple[str, str, str, str]]) -> list[Thing]:
    """From (name, words, menu, key) of every act."""
    return [
        thing(words.removesuffix(" …"), menu.lower(), name, key, ALSO_CALLED.get(name, ""))
        for name, words, menu, key in known
    ]


def records(evidence: Evidence) -> list[Thing]:
    """Every record that has a sheet, with what it belongs to and its rung; worked out once for an evidence."""
    return evidence.once("things to be found", _records)


_LAST: dict[int, Thing] = {}
"""By a record's identity, what stood for it the last time: an act leaves nearly all of thousands as they were."""


def _records(evidence: Evidence) -> list[Thing]:
    out = []
    for kind, model in KINDS.items():
        if not model.rung:
            continue
        references = [n for n in model.__struct_fields__ if n.endswith("_id") and n not in ("series_id", "state_id")]
        belongs: dict[tuple[str, ...], str] = {}  # thousands of readings belong to a few runs and places
        every: Sequence[Record] = evidence.all(model)
        for record in every:
            others = tuple([getattr(record, n) for n in references])
            if others not in belongs:
                names = [evidence.title(other) for other in others if other]
                belongs[others] = ", ".join([n for n in names if n != "?"] + [model.rung.capitalize()])
            one = _LAST.get(id(record))
            if one is None or one.payload is not record or one.where != belongs[others]:
                one = thing(record.title, belongs[others], record, also=kind)
            out.append(one)
    _LAST.clear()
    _LAST.update((id(one.payload), one) for one in out)
    return out


def help_pages() -> list[Thing]:
    return [
        thing(f"Help: {rung.capitalize()}", "what it answers, how to feed it", HelpPage(rung), also=page.text)
        for rung, page in HELP.items()
    ]


def search(query: str, things: Sequence[Thing], most: int = MOST) -> list[Thing]:
    """What has every word of a query, the nearest first: called so, then with a word that begins so, then known by it."""
    wanted = query.lower().split()
    if not wanted:
        return list(things[:most])
    found: list[tuple[int, int, Thing]] = []
    for number, one in enumerate(things):
        if all(word in one.text for word in wanted):
            found.append((_distance(query.lower().strip(), wanted, one), number, one))
    found.sort(key=lambda both: both[:2])
    if found and found[0][0] < INSIDE_A_WORD:
        found = [one for one in found if one[0] < INSIDE_A_WORD]  # the rest only holds the letters somewhere
    return [one for _, _, one in found[:most]]


def _distance(query: str, wanted: list[str], one: Thing) -> int:
    called = one.words.lower()
    if called == query:
        return 0
    if called.startswith(query):
        return 1
    begins = re.split(r"[^\w.]+", f"{called} {one.where.lower()}")
    if all(any(part.startswith(word) for part in begins) for word in wanted):
        return 2
    if all(word in called for word in wanted):
        return 3
    also = one.also.lower().split()
    return 4 if all(any(part.startswith(word) for part in (*begins, *also)) for word in wanted) else INSIDE_A_WORD
