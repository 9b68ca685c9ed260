"""What displays show, and people note of them: `3 bars`, `31 Mbit/s`, `28 ms`, `64 %`, `snow`, `3 in 40 s`.

Each kind of display has its own scale: how it is written, in which unit it is spoken of, and which way is better.
"""

from __future__ import annotations

import re

from tallmast.frozen import Frozen

from .read import NUMBER, UnitError, clean, number


class Scale(Frozen, eq=True):
    """What a kind of display shows."""

    unit: str
    """As spoken after the number."""
    written: str = ""
    """Pattern of the unit as people write it; empty: only a bare number, where it was said beforehand what that means."""
    ahead: str = "shows more than"
    """Of the better of two: `A … B`."""
    more_is_better: bool = True
    countable: bool = False
    """Whether differences of it mean something: twice as much is twice as much."""
    least: float = 0.0
    most: float = 1e9


SCALES: dict[str, Scale] = {
    "S units": Scale("S units", most=9.0),
    "bars": Scale("bars", r"(?:(?:of|/)\s*\d+\s*)?bars?", "shows more bars than", most=100.0),
    "bit rate": Scale("Mbit/s", r"mbit/s|mbps|mb/s", "gets a higher bit rate than", countable=True),
    "packet rate": Scale("%", r"%|percent|packets?", "gets more packets through than", countable=True, most=100.0),
    "picture grade": Scale("of 5", r"(?:of 5\s+)?(?:grade|picture)", "gives a better picture than", most=5.0),
    "readability": Scale("of 5", ahead="is heard better than", most=5.0),
    "heard": Scale("heard", ahead="is heard more often than", most=1.0),
    "delay": Scale("ms", r"ms", "has less delay than", more_is_better=False, countable=True),
    "dropouts": Scale(
        "dropouts a minute",
        r"dropouts?(?: a minute|/min)?",
        "drops out less than",
        more_is_better=False,
        countable=True,
    ),
    "usable": Scale("% of the time", ahead="stays usable longer than", countable=True, most=100.0),
    "warning": Scale("s of warning", ahead="goes more slowly from usual to lost than", countable=True),
    "fade depth": Scale("dB", ahead="fades less than", more_is_better=False, countable=True),
    "exposure meter": Scale("as shown", r"v/m|mw/m²|mw/m2|µw/cm²|µw/cm2|uw/cm2"),
    "level": Scale("counts", ahead="reads more than", countable=True, least=-1e9),
}
PICTURES = {"gone": 0.0, "black": 0.0, "snow": 2.0, "heavy snow": 1.0, "light snow": 3.0, "good picture": 4.0}
"""Words for a picture, as grades of five: from gone to what nobody would complain of."""
EXPECTED = "what a display showed, with its unit (3 bars, 31 Mbit/s, 28 ms, 64 %, 3 dropouts in 40 s)"


class Shown(Frozen, eq=True):
    """A display's reading on its scale."""

    scale: str
    value: float

    @property
    def words(self) -> str:
        return words_of(self.scale, self.value)


def words_of(scale: str, value: float) -> str:
    """`31 Mbit/s`, `S7`, `4 of 5`."""
    if scale == "S units":
        return f"S{value:g}"
    return f"{value:g} {SCALES[scale].unit}"


def _checked(scale: str, value: float, text: str) -> Shown:
    if not SCALES[scale].least <= value <= SCALES[scale].most:
        raise UnitError(f"{scale} from {SCALES[scale].least:g} to {SCALES[scale].most:g}", text)
    return Shown(scale, value)


def minutes_of(text: str) -> float:
    """In how many minutes events were counted that were typed as `3 in 40 s`; one, where nobody said."""
    found = re.search(rf"in\s*({NUMBER})\s*(s|min)", clean(text).lower())
    return number(found[1]) / (1.0 if found[2] == "min" else 60.0) if found else 1.0


def shown(text: str, bare: str = "") -> Shown:
    """A display's reading; `bare`: the scale that a number without a unit is on. Raises `UnitError`."""
    body = clean(text).lower()
    if body in PICTURES:
        return Shown("picture grade", PICTURES[body])
    in_time = re.fullmatch(rf"({NUMBER})\s*(?:dropouts?\s*)?in\s*({NUMBER})\s*(s|min)", body)
    if in_time:
        seconds = number(in_time[2]) * (60.0 if in_time[3] == "min" else 1.0)
        if seconds <= 0:
            raise UnitError(EXPECTED, text)
        return _checked("dropouts", number(in_time[1]) * 60.0 / seconds, text)
    lost = re.fullmatch(
        rf"({NUMBER})\s*%\s*(?:of packets\s*)?(?:lost|loss|errors?)|(?:per|loss)\s*({NUMBER})\s*%?", body
    )
    if lost:
        return _checked("packet rate", 100.0 - number(lost[1] or lost[2]), text)
    small = re.fullmatch(rf"({NUMBER})\s*(k|g)(?:bit/s|bps|b/s)", body)
    if small:
        return _checked("bit rate", number(small[1]) * (1e-3 if small[2] == "k" else 1e3), text)
    for key, scale in SCALES.items():
        match = re.fullmatch(rf"({NUMBER})\s*(?:{scale.written})", body) if scale.written else None
        if match:
            there = re.search(r"(?:of|/)\s*(\d+)\s*bars?$", body)
            if there and number(match[1]) > int(there[1]):
                raise UnitError(f"bars from 0 to the {there[1]} there are", text)
            return _checked(key, number(match[1]), text)
    if bare and re.fullmatch(NUMBER, body):
        return _checked(bare, number(body), text)
    raise UnitError(EXPECTED, text)
