"""What people say of a signal: readability and strength (5/9, 59, R4 S7), or a word (barely, clear, nothing)."""

from __future__ import annotations

import re
from functools import lru_cache

from tallmast.frozen import Frozen
from tallmast.physics.decibels import s_unit_dbm

from .read import UnitError, clean

HEARD = ("h", "heard", "yes", "copied", "there", "audible", "strong", "loud")
NOT_HEARD = (
    "n",
    "no",
    "not heard",
    "nothing",
    "nothing heard",
    "none",
    "nil",
    "lost",
    "gone",
    "no copy",
    "no signal",
    "no answer",
    "no reply",
    "silence",
    "-",
    "0",
    "0/0",
)
GRADES: dict[int, tuple[str, ...]] = {
    1: ("unreadable", "not readable", "carrier", "just there", "in the noise", "no words"),
    2: ("barely", "barely readable", "just readable", "weak", "very weak", "in parts", "broken", "scratchy", "poor"),
    3: ("with difficulty", "with effort", "fair", "rough", "noisy", "with noise", "weak but readable"),
    4: ("well", "good", "readable", "almost clear"),
    5: ("perfectly", "perfect", "clear", "loud and clear", "full quieting", "excellent", "armchair", "armchair copy"),
}
FIGURES = ("zero", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine")
"""Readability as the Q code's QRK has it (ITU-R M.1172): 1 bad to 5 excellent, and the words that people use."""


class Said(Frozen, eq=True):
    """A spoken report: heard or not, readability 1 to 5 where it was given, strength as an S unit where it was."""

    heard: bool
    readability: int | None = None
    strength: str = ""
    """As `S7` or `S9+10`; empty: not given."""


@lru_cache(4096)
def said(text: str) -> Said:
    """A spoken report: `59`, `5/9`, `5 by 9`, `five nine`, `599`, `R4 S7`, `4 of 5`, `Q4`, `4`, `barely`, `nothing`, `59+10`.

    A readability of two digits or more is always readability and strength: nobody reports a level of +59 dBm.
    Raises `UnitError` for anything else.
    """
    body = clean(text).lower().strip(" .!")
    body = re.sub(rf"\b({'|'.join(FIGURES)})\b", lambda word: str(FIGURES.index(word[0])), body)
    if body in HEARD:
        return Said(True)
    if body in NOT_HEARD:
        return Said(False)
    for grade, words in GRADES.items():
        if body in words:
            return Said(True, grade)
    alone = re.fullmatch(r"(?:[rq]\s*)?([1-5])(?:\s*(?:of|/|out of)\s*5)?", body)
    if alone:
        return Said(True, int(alone[1]))
    both = re.fullmatch(
        r"(?:r\s*)?([1-5])\s*(?:/|,|by|and|x|s|-)?\s*(?:s\s*)?([1-9])[1-9]?(?:\s*\+\s*(\d{1,2})(?:\s*db)?|\s*plus\s*(\d{1,2}))?",
        body,
    )
    if both:
        over = both[3] or both[4]
        return Said(True, int(both[1]), f"S{both[2]}" + (f"+{over}" if over and both[2] == "9" else ""))
    raise UnitError("a spoken report (59, 5/9, R4 S7, 4 of 5, barely, nothing)", text)


@lru_cache(4096)
def strength_db(text: str) -> float | None:
    """Decibels over S9 of the strength in a spoken report, or of an S reading alone: 6 dB an S unit (IARU Region 1 R.1). None where it
    says none. What level S9 is on a band is another matter."""
    try:
        strength = said(text).strength
    except UnitError:
        strength = clean(text).upper().replace(" ", "")
    match = re.fullmatch(r"S([1-9])(?:\+(\d{1,2})(?:DB)?)?", strength)
    if match is None or (match[2] and match[1] != "9"):
        return None
    return s_unit_dbm(int(match[1]), float(match[2] or 0), 0.0)
