"""What somebody noted of a signal, as it is written in a reading's sheet: a level, a spoken report, a display."""

from __future__ import annotations

import re
from collections.abc import Mapping
from contextlib import suppress
from typing import Any

from tallmast.findings.levels.display import DisplayFinding
from tallmast.notebook.records import Run
from tallmast.units import read, show
from tallmast.units.shown import SCALES, Shown, shown, words_of
from tallmast.units.spoken import said, strength_db


def on_display(text: str, displays: Mapping[str, DisplayFinding]) -> tuple[str, float] | None:
    """(receiver, reading) of what a stepped display showed: `3 bars`, `24 Mbit/s`, `85 %`, `S7`, `3 on handset`."""
    body = read.clean(text).lower()
    for receiver, found in displays.items():
        scale, name = found.curve.run.scale, re.escape(receiver.lower())
        units = SCALES[scale].written
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


BARE = "bare"
"""Of a number that was noted without a unit: what it means is the run's, which may be chosen after it was typed."""


COUNTED = re.compile(
    r"(?:heard|got|copied)?\s*(\d{1,3})\s*(?:of|/|out of)\s*(\d{1,3})\s*(?:were |was )?"
    r"(?:heard|copied|got through|through|calls?|times|tries|attempts)"
)
MOST_TRIES = 50
IN_A_ROW = re.compile(r"(?:[hn]|[-−+]?\d*(?:[.,]\d+)?)(?: +(?:[hn]|[-−+]?\d*(?:[.,]\d+)?))+", re.IGNORECASE)
"""Attempts parted by blanks alone: letters and numbers, for words together are one report."""
BLANK: dict[str, Any] = {
    "heard": True,
    "level_dbm": None,
    "readability": None,
    "shown": None,
    "scale": "",
    "receiver": "",
}
"""Of a report in which nothing was said."""


def report_of(text: str, frequency_hz: float, displays: Mapping[str, DisplayFinding] | None = None) -> dict[str, Any]:
    """What somebody noted of a signal: a level, heard, not heard, a readability, or what a display showed.

    `-97 dBm`, `S7`; `59`, `R4 S7`, `4 of 5`, `barely`, `nothing`, `h`, `n` as spoken (`units.spoken`); `3 bars`,
    `31 Mbit/s`, `28 ms`, `snow` as displays have it (`units.shown`), in decibels where that display was stepped. A number
    that is none of these alone is kept as `BARE`. Raises `UnitError`.
    """
    stepped = on_display(text, displays or {})
    if stepped is not None and displays is not None:
        spoken = int(stepped[1]) if displays[stepped[0]].curve.run.scale == "readability" else None
        return BLANK | {"readability": spoken, "receiver": stepped[0], "shown": stepped[1]}
    try:
        told = said(text)
    except read.UnitError:
        pass
    else:
        level = None
        if told.strength and frequency_hz:
            with suppress(read.UnitError):  # an S unit is a level where the band says what S9 is
                level = read.level(told.strength, frequency_hz)
        words = text.strip() if len(text.strip()) > 1 else ""
        return {
            **BLANK,
            "heard": told.heard,
            "level_dbm": level,
            "readability": told.readability,
            **({"as_typed": words} if words else {}),
            **({BARE: read.number(text)} if re.fullmatch(r"\d+", text.strip()) else {}),
        }
    if re.fullmatch(r"\+?\d+(?:[.,]\d+)?", read.clean(text)):
        return BLANK | {BARE: read.number(text)}
    try:
        there = shown(text)
    except read.UnitError:
        pass
    else:
        return _shown(there)
    try:
        return BLANK | {"level_dbm": read.level(text, frequency_hz)}
    except read.UnitError:
        if strength_db(text) is not None:  # how strong, on a band on which nobody knows what level S9 is
            return BLANK | {"as_typed": text.strip()}
        raise read.UnitError(
            "a level (−97 dBm, S7), heard, not heard, as spoken (59, 4 of 5, barely), or as a display had it "
            "(3 bars, 31 Mbit/s, 28 ms, snow)",
            text,
        ) from None


def _shown(there: Shown) -> dict[str, Any]:
    """Of a display: none of a signal is not heard, none of what is a nuisance is."""
    heard = there.value > 0 or not SCALES[there.scale].more_is_better
    return BLANK | {"heard": heard, "shown": there.value, "scale": there.scale}


def reports_of(
    text: str, frequency_hz: float, displays: Mapping[str, DisplayFinding] | None = None
) -> list[dict[str, Any]]:
    """Several attempts in one line: `59, 57, nothing`, `-97; -99; -95`, `h h n h`, `3 of 4 heard`. A comma without a blank is a
    decimal mark. Raises `UnitError` at the first that can't be read."""
    counted = COUNTED.fullmatch(text.strip().lower())
    if counted:
        through, tries = (int(n) for n in counted.groups())
        if not 0 < tries <= MOST_TRIES or through > tries:
            raise read.UnitError(f"how many of up to {MOST_TRIES} were heard, such as 3 of 4 heard", text)
        return [BLANK | {"heard": i < through} for i in range(tries)]
    parts = [part for part in re.split(r"\s*;\s*|,\s+", text.strip()) if part]
    if len(parts) == 1 and IN_A_ROW.fullmatch(parts[0]):
        with suppress(read.UnitError):  # “5 9” is one report, “59 57” are two
            return [report_of(parts[0], frequency_hz, displays)]
        parts = parts[0].split()
    return [report_of(part, frequency_hz, displays) for part in parts or [text]]


def meant(report: dict[str, Any], run: Run | None) -> dict[str, Any]:
    """A report whose bare number is told by what the run was read on. Raises `UnitError` where nothing says what it means."""
    if BARE not in report:
        return report
    bare, rest = report[BARE], {key: value for key, value in report.items() if key != BARE}
    scale = run.read_on if run is not None else ""
    if not scale:
        if rest["readability"] is not None or not rest["heard"]:
            return rest
        raise read.UnitError(f"a unit: −{bare:g} dBm, or what is it in (or say it once, in the run)", f"{bare:g}")
    if scale == "readability":
        spoken = rest["readability"] is not None or not rest["heard"]
        return rest if spoken else BLANK | {"heard": bare > 0, "readability": int(bare) or None}
    return _shown(shown(f"{bare:g}", scale))


def report_words(report: dict[str, Any], displays: Mapping[str, DisplayFinding] | None = None) -> str:
    if report.get("scale"):
        return words_of(report["scale"], report["shown"])
    if report.get("shown") is not None:
        words = f"{report['shown']:g} on {report['receiver']}"
        found = (displays or {}).get(report["receiver"])
        return f"{words}: {found.curve.read(report['shown']).words}" if found is not None else words
    if report.get("level_dbm") is not None:
        level = f"{show.fixed(report['level_dbm'], 1)} dBm"
        return f"readability {report['readability']}, {level}" if report.get("readability") else level
    over_s9 = strength_db(report.get("as_typed", ""))
    if over_s9 is not None:
        strength = f"{show.plus(over_s9, 0)} dB on S9, which is no known level on this band"
        return f"readability {report['readability']}, {strength}" if report.get("readability") else strength
    if report.get("readability") is not None:
        return f"{report['readability']} of 5"
    return "heard" if report["heard"] else "not heard"
