"""Field notes as a table: what was heard at each place with each antenna, one report a row, or a column for each antenna."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping, Sequence

import numpy as np

from tallmast.frozen import Frozen, field
from tallmast.notebook.records import READ_ON, ReadOn
from tallmast.units import read as typed
from tallmast.units import show
from tallmast.units.shown import shown
from tallmast.units.spoken import said, strength_db

from . import header, table
from .cells import ANTENNA, Rows, by_names, cells, filled, there_or_error, with_unit
from .errors import FormatError
from .format import Columns, Format, Role, Seen, Start
from .layout import PAIR, is_number, number_in

MOST_ROWS = 20_000
LONGEST_NAME = 80
"""Letters of a place or an antenna."""
FEW_PLACES = 300
"""Up to so many points a table of them with several levels is taken for notes, and no track."""
GUESSES: tuple[tuple[str, str], ...] = (
    (
        "place",
        r"\bplaces?\b|\blocation|\bsites?\b|\bspots?\b|landmark|\bstops?\b|\bwhere\b|^at$|\bpoint|\bort\b|^to$|\bqth\b",
    ),
    ("with antenna", ANTENNA),
    ("listener", r"listen|operator|\bwho\b|heard by|\bby$|\bhörer"),
    ("at end", r"\bends?\b|\bside\b"),
    ("latitude", r"^lat\b|latitude|breite"),
    ("longitude", r"^lon\b|^lng\b|^long\b(?! )|longitude|länge"),
    ("where", r"dist|how far|\bfar\b|range|position|\baway\b|entfernung|^(?:km|miles?|metres|meters|yards|feet)$"),
    ("mode", r"\bmodes?\b|modulation"),
    ("pass", r"^runs?\b|\bpass\b|\bround\b"),
    ("day", r"^days?\b|^date\b|\bdatum\b"),
    ("time", r"\btime\b|^utc\b|clock|\bzeit\b"),
    ("weather", r"weather|\bwetter\b"),
    ("battery", r"batter"),
    ("remark", r"notes?\b|remark|comment|bemerkung"),
    ("power", r"^power(?!.*dbm)|^pwr|^sent\b|power sent|\btx power|\bwatts?\b|^leistung"),
)
"""Which column names mean what, tried in this order."""
NO_REPORT = re.compile(
    r"\bno\b|#|number|height|\balt|bearing|speed|\bsats?\b|diff|delta|δ|average|\bmean\b|\bsum\b|total|score|\brank",
    re.IGNORECASE,
)
"""Names of columns that hold no reports of their own, whatever is in them."""
UNIT = re.compile(r"(?<![a-z])(km|miles?|mi|metres|meters|m|feet|ft|yards?|yd)(?![a-z])", re.IGNORECASE)
DASHES = ("-", "--", "---", "–", "—")
NOT_TRIED = ("?", "*", "x", "n/a", "na", "n.a.", "nan", "null", "not tried", "not tested")
"""What people write where there was no call; “none” is one that nobody heard."""
DASH = {"not tried": "not tried there", "not heard": "nothing was heard"}
ENDS = {
    "away": r"\b(?:far|away|there|mobile|remote|car|out|other|rcvd|rcv|received)\b",
    "home": r"\b(?:home|base|here|house|sent)\b",
}
"""Which end heard it: a report that was received is of what they heard out there, one that was sent of what was heard here."""
OF_MANY = re.compile(r"\d+\s*(?:of|/|out of)\s*\d+(?:\s+\w+)*|[hn](?: +[hn])+", re.IGNORECASE)
"""Several attempts in a cell."""
WRITTEN = {
    "level in dBm": "{:g} dBm",
    "S units": "S{:g}",
    "bars": "{:g} bars",
    "bit rate": "{:g} Mbit/s",
    "packet rate": "{:g} %",
    "delay": "{:g} ms",
    "picture grade": "{:g} grade",
}
"""A number as it is typed with its unit."""
SELDOM = {
    "heard too": "Heard at the other end",
    "latitude": "Latitude",
    "longitude": "Longitude",
    "mode": "Mode",
    "pass": "Run",
    "day": "Day",
    "time": "Time",
    "weather": "Weather",
    "battery": "Battery",
    "remark": "Remark",
    "listener": "Who listened",
    "at end": "At which end",
    "power": "Power",
}
"""Roles that are folded away while no column has them."""
FACTORS = ("mode", "pass", "day", "weather", "battery", "listener", "power")
BESIDE = ("time", "remark")


class Note(Frozen, eq=True):
    """One cell that says what was heard, and the rest of its row, as written."""

    line: int
    place: str
    antenna: str
    """Empty: no column says it."""
    heard: str
    where: str = ""
    """How far off, or where, in words; latitude and longitude where they have columns of their own."""
    end: str = ""
    """`home`, `away`; empty: no column says it; `other`: the other one than that of the rest."""
    factors: Mapping[str, str] = field(default_factory=dict)
    """Of `FACTORS` those that have a column."""
    time: str = ""
    remark: str = ""


class NotesFile(Frozen, eq=True):
    """In the order in which they stand."""

    rows: tuple[Note, ...]
    taken: dict[str, str]
    read_on: ReadOn = ""
    """What a bare number means."""
    in_turn: bool = True
    """Whether the order of the rows is that in which they were noted; columns side by side have none."""
    notes: tuple[str, ...] = ()


def _guessed(names: Iterable[str]) -> dict[str, str]:
    names = list(names)
    taken = by_names(names, GUESSES)
    said = [name for name in names if name not in taken.values() and header.HEARD.search(header.plain(name))]
    ends = {_end_in(name) for name in said}
    if len(said) == 2 and len(ends) == 2 and None not in ends:
        taken |= {"heard": said[0], "heard too": said[1]}
    elif len(said) == 1:  # else each is an antenna's, a place's, or another reading
        taken["heard"] = said[0]
    return taken


def _end_in(words: str) -> str | None:
    return next((end for end, pattern in ENDS.items() if re.search(pattern, words, re.IGNORECASE)), None)


def guess(found: table.Table) -> dict[str, str]:
    """By the names of the columns."""
    return _guessed(found.names)


def _says(cell: str) -> bool:
    """Whether a cell is some report of a signal."""
    if is_number(cell, ",") or is_number(cell) or strength_db(cell) is not None or OF_MANY.fullmatch(cell):
        return True
    for reader in (said, shown, lambda text: typed.level(text, 0.0)):
        try:
            reader(cell)
        except typed.UnitError:
            continue
        return True
    return all(map(_says, parts)) if len(parts := re.split(r"\s*;\s*|,\s+", cell)) > 1 else False


def _reports(names: Sequence[str], rows: Rows, taken: Mapping[str, str]) -> list[str]:
    """Columns that are nothing else and mostly hold reports."""
    out = []
    for i, name in enumerate(names):
        words = header.plain(name)
        written = [
            row[i] for _, row in rows[:200] if row[i] and row[i] not in DASHES and row[i].lower() not in NOT_TRIED
        ]
        known = name in taken.values() or NO_REPORT.search(words) or header.OTHER.search(words)
        if not known and written and sum(map(_says, written)) >= 0.8 * len(written):
            out.append(name)
    return out


def _each_is(taken: Mapping[str, str]) -> str:
    """What a column of reports is of, where one alone does not hold them: an antenna, a place, an attempt."""
    placed = "place" in taken or "where" in taken
    if "heard" in taken or (placed and "with antenna" in taken):
        return "attempt"
    return "antenna" if placed else "place"


class _Said(Frozen):
    """How a table says what was heard."""

    columns: dict[str, list[str]]
    """Reports by column, [row], with the units that their names have."""
    ends: dict[str, str]
    each: str
    read_on: ReadOn
    notes: tuple[str, ...]

    @classmethod
    def of(cls, name: str, names: Sequence[str], rows: Rows, taken: Mapping[str, str], on: ReadOn) -> _Said:
        alone = (
            [taken[k] for k in ("heard", "heard too") if k in taken]
            if "heard" in taken
            else _reports(names, rows, taken)
        )
        if not alone:
            raise FormatError(name, "no column says what was heard", todo="Say which column it is")
        columns, notes = {}, []
        for column in alone:
            columns[column], says, note = _with_units(column, [row[names.index(column)] for _, row in rows])
            on = on or says
            notes += [note] if note else []
        ends = {column: _end_in(column) or "" for column in alone} if "heard too" in taken else {}
        if "heard too" in taken and not ends[taken["heard too"]]:
            ends[taken["heard too"]] = "other"
        return cls(columns, ends, _each_is(taken), on, tuple(notes))


def _taken(name: str, names: Sequence[str], columns: Columns | None) -> tuple[dict[str, str], ReadOn, str]:
    """(which columns are what, what a bare number means, what a dash means). Raises `FormatError`."""
    taken = {key: column for key, column in {**_guessed(names), **(columns or {})}.items() if column}
    said_on, dash = taken.pop("read on", ""), taken.pop("dash", "not tried")
    if said_on not in READ_ON or dash not in DASH:
        raise FormatError(name, f"“{said_on}” or “{dash}” is none of what can be chosen", todo="Choose again")
    there_or_error(name, names, taken)
    if not {"place", "where", "with antenna"} & set(taken):
        raise FormatError(name, "no column is named a place", todo="Say which column it is")
    return taken, next((on for on in READ_ON if on == said_on), ""), dash


def read(data: bytes, name: str, columns: Columns | None = None) -> NotesFile:
    """Field notes from delimited text. A blank place, antenna or factor is that of the row above, as spreadsheets have it. Raises
    `FormatError`."""
    names, rows = cells(data, name, MOST_ROWS)
    taken, read_on, dash = _taken(name, names, columns)
    rows, blanks = filled(names, rows, [taken[role] for role in ("place", "with antenna", *FACTORS) if role in taken])
    said = _Said.of(name, names, rows, taken, read_on)
    notes = [f"{show.count(blanks, 'blank cell')} taken from the row above"] if blanks else []
    notes += said.notes
    out: list[Note] = []
    dashes = 0
    for k, (line, row) in enumerate(rows):
        cell = {role: row[names.index(column)] for role, column in taken.items()}
        for column, reports in said.columns.items():
            written = "" if reports[k].lower() in NOT_TRIED else reports[k]
            if written in DASHES:
                dashes += 1
                written = "" if dash == "not tried" else "nothing"
            if written:
                where = _where(cell, taken, name, line)
                place, antenna = _whose(said.each, column, cell, taken, where)
                if not place:
                    raise FormatError(name, "a report without a place", line, "Write where it was heard")
                if max(len(place), len(antenna)) > LONGEST_NAME:
                    raise FormatError(name, f"a name of more than {LONGEST_NAME} letters", line, "Shorten it")
                end = said.ends.get(column) or _end(cell.get("at end", ""), name, line)
                factors = {role: cell[role] for role in FACTORS if role in taken}
                if "power" in factors:
                    factors["power"] = with_unit(factors["power"], taken["power"])
                beside = {role: cell.get(role, "") for role in BESIDE}
                out.append(Note(line, place, antenna, written, where, end, factors, **beside))
    if not out:
        raise FormatError(name, "nothing that was heard is in it", todo="Check which column says it")
    if dashes:
        taken_as = "not tried" if dash == "not tried" else "nothing heard"
        notes.append(f"{show.count(dashes, 'dash', 'dashes')} taken as {taken_as}")
    unused = [column for column in names if column not in taken.values() and column not in said.columns]
    if unused:
        notes.append(f"not used: {show.join(unused)}")
    full = dict.fromkeys((role.key for role in FORMAT.roles), "") | taken | {"read on": said.read_on, "dash": dash}
    in_turn = len(said.columns) == 1 or said.each == "attempt"
    return NotesFile(tuple(out), full, said.read_on, in_turn, tuple(notes))


def _whose(each: str, column: str, cell: Mapping[str, str], taken: Mapping[str, str], where: str) -> tuple[str, str]:
    """(place, antenna) of a report in a column; where no column names a place its distance does."""
    place = cell.get("place", "") if "place" in taken else where
    if place and is_number(place):
        place = f"{taken['place']} {place}"
    antenna = cell.get("with antenna", "")
    if each == "place":
        return header.plain(column), antenna
    return place, header.called(column) if each == "antenna" else antenna


def _with_units(column: str, reports: Sequence[str]) -> tuple[list[str], ReadOn, str]:
    """(reports of a column with the unit that its name says, what a bare number means where that has none, what was turned)."""
    says = header.says(column)
    numbers = [number_in(report) for report in reports]
    known = np.array([n for n in numbers if n is not None], dtype=float)
    if says is None or not len(known) or not np.isfinite(known).all():
        return list(reports), "", ""
    if says == "level in dBm" and (known > 0).all():
        return list(reports), "", ""  # reports such as 59 under “signal”
    rescaled = header.on_scale(column, says, known)
    values, form = iter(rescaled.values), WRITTEN.get(says, "{:g}")
    written = [report if n is None else form.format(next(values)) for report, n in zip(reports, numbers, strict=True)]
    return written, "" if says in WRITTEN else next((on for on in READ_ON if on == says), ""), rescaled.note


def _where(cell: Mapping[str, str], taken: Mapping[str, str], name: str, line: int) -> str:
    """As it is typed in a place's sheet."""
    if cell.get("latitude") and cell.get("longitude"):
        return f"{cell['latitude']}, {cell['longitude']}"
    where = cell.get("where", "")
    if where and is_number(where.replace(",", ".")):
        unit = UNIT.search(header.plain(taken["where"]))
        if unit is None:
            raise FormatError(
                name, f"{where} in “{taken['where']}” has no unit", line, "Write the unit in its name: distance km"
            )
        return f"{where} {unit[1]}"
    return where


def _end(written: str, name: str, line: int) -> str:
    if not written:
        return ""
    end = _end_in(written)
    if end is not None:
        return end
    raise FormatError(name, f"“{written}” is neither end", line, "Write home or far")


def _recognise(start: Start) -> Seen | None:
    if start.is_markup:
        return None
    try:
        taken = _guessed(table.names_of(start.data, start.name))
        if not {"place", "where", "with antenna"} & set(taken):
            return None
        names, rows = cells(table.head(start.data), start.name, MOST_ROWS)
    except FormatError:
        return None
    by_name = next(taken[role] for role in ("place", "with antenna", "where") if role in taken)
    written = [cell for _, row in rows if (cell := row[names.index(by_name)])]
    named = sum(not is_number(cell) and not PAIR.fullmatch(cell) for cell in written) >= 0.5 * max(len(written), 1)
    if "heard" in taken:
        reports = [cell for _, row in rows if (cell := row[names.index(taken["heard"])]) and cell not in DASHES]
        if not {"place", "where"} & set(taken) or sum(map(_says, reports)) < 0.5 * max(len(reports), 1):
            return None
        by = f"places in “{taken.get('place') or taken['where']}” and what was heard in “{taken['heard']}”"
        if "with antenna" in taken or named:
            return Seen(0.9 if "with antenna" in taken else 0.7, by)
        return Seen(0.5, by) if "place" not in taken and "time" not in taken else None
    columns, each = _reports(names, rows, taken), _each_is(taken)
    called = [c for c in columns if header.HEARD.search(header.plain(c)) and header.called(c) != c]
    by = f"a column of reports for each {each}"
    if {"latitude", "longitude"} <= set(taken):  # a track’s log has one level
        return Seen(0.9, by) if len(called) > 1 and len(rows) <= FEW_PLACES else None
    if each == "attempt":
        return Seen(0.8, by) if columns and named else None
    if "place" not in taken and "with antenna" not in taken:  # distances, and what may be anything
        words = any(not is_number(row[names.index(c)]) for c in columns for _, row in rows if row[names.index(c)])
        return Seen(0.5, by) if len(columns) > 1 and (words or len(called) > 1) else None
    return Seen(0.7, by) if len(columns) > 1 and (named or len(called) > 1) else None


FORMAT = Format(
    "field notes",
    "field notes: what was heard where",
    _recognise,
    read,
    (
        Role("place", "Place", needed=False, none="a column for each place", words_too=True),
        Role("heard", "What was heard", needed=False, none="several columns say it", words_too=True),
        Role("with antenna", "With which antenna", needed=False, none="no column says it", words_too=True),
        Role("where", "How far, or where", needed=False, words_too=True),
        *(Role(key, words, needed=False, seldom=True, words_too=True) for key, words in SELDOM.items()),
        Role("read on", "A bare number means", needed=False, choices={k: v for k, v in READ_ON.items() if k}),
        Role("dash", "A dash means", choices=DASH, seldom=True),
    ),
    guess,
    lambda notes: notes.taken,
)
