"""Parts that a person writes several of in one line: points of a curve, pads, spells of readings."""

from __future__ import annotations

import re
from typing import Annotated, Literal

from msgspec import Meta

from tallmast.units import read, show
from tallmast.units.quantity import Quantity

from .base import Finite, NotNegative, Part, Positive


class At(Part, frozen=True, kw_only=True):
    """A loss known at a frequency."""

    frequency_hz: Positive
    loss_db: Finite
    u_db: NotNegative = 0.1


class Pad(Part, frozen=True, kw_only=True):
    """An attenuator."""

    name: str
    attenuation_db: NotNegative
    tolerance_db: NotNegative = 0.3
    """Half-width of what the maker promises; taken as a rectangular distribution."""
    rating_w: Positive = 0.5


class ReadingsInTurn(Part, frozen=True, kw_only=True):
    """Readings of one thing, one after the other."""

    label: str
    minute: Finite | None = None
    """None where nobody looked at a clock: the spells then followed each other evenly."""
    values: list[Finite]


POINTS_EXPECTED = "points such as 10.1 dB at 868 MHz; 10.3 ±0.1 dB at 2.4 GHz"


def points(text: str, per: str = "") -> list[At]:
    """`10.1 dB at 868 MHz; 10.3 ±0.1 dB at 2.4 GHz`; with `per` the length in m that the losses are for, as written. Raises `UnitError`."""
    out = []
    for part in re.split(r"\s*;\s*", read.clean(text).strip("; ")):
        match = re.fullmatch(
            rf"({read.NUMBER})\s*(?:±\s*({read.NUMBER})\s*)?(?:dB)?\s*(?:(?:/|per)\s*(\S+(?:\s*(?:m|ft))?)\s+)?(?:at|@)\s*(.+)",
            part,
            re.IGNORECASE,
        )
        if not match:
            raise read.UnitError(POINTS_EXPECTED, text)
        size = 1.0
        if per:
            length = match[3] or per
            size = read.length(length if re.match(r"[\d.,]", length) else f"1 {length}")
            if size <= 0:
                raise read.UnitError(POINTS_EXPECTED, text)
        elif match[3]:
            raise read.UnitError(POINTS_EXPECTED, text)
        loss = read.number(match[1]) / size
        doubt = read.number(match[2]) / size if match[2] else (0.1 if not per else 0.05 * abs(loss))
        out.append(At(frequency_hz=read.frequency(match[4]), loss_db=loss, u_db=abs(doubt)))
    return out


def points_text(made: list[At]) -> str:
    return "; ".join(f"{p.loss_db:.6g} ±{p.u_db:.2g} dB at {show.frequency(p.frequency_hz)}" for p in made)


def curve(text: str) -> list[At]:
    """A cable's loss as its sheet gives it: `6.6 dB/100 m at 100 MHz; 22 dB/100 m at 1 GHz`."""
    return points(text, per="100 m")


def curve_text(made: list[At]) -> str:
    return "; ".join(
        f"{p.loss_db * 100:.6g} ±{p.u_db * 100:.2g} dB/100 m at {show.frequency(p.frequency_hz)}" for p in made
    )


PAD_EXPECTED = "pads such as “10 dB 2 W + 6 dB”, each with its rating if known"


def pads(text: str) -> list[Pad]:
    """`10 dB 2 W + 6 dB ± 0.3 0.5W`: value, tolerance (0.3 dB if not given), rating (0.5 W if not given). Raises `UnitError`."""
    out = []
    for part in re.split(r"[+;]|,(?=\s)", read.clean(text)):
        body = part.strip()
        match = re.fullmatch(
            rf"({read.NUMBER})\s*(?:dB)?(?:\s*±\s*({read.NUMBER})\s*(?:dB)?)?(?:\s+(.+))?", body, re.IGNORECASE
        )
        if not match or read.number(match[1]) < 0:
            raise read.UnitError(PAD_EXPECTED, text)
        rating = read.power(match[3]) if match[3] else 0.5
        value = read.number(match[1])
        out.append(
            Pad(
                name=f"{value:g} dB pad",
                attenuation_db=value,
                tolerance_db=read.number(match[2]) if match[2] else 0.3,
                rating_w=rating,
            )
        )
    return out


def pads_text(made: list[Pad]) -> str:
    return " + ".join(f"{p.attenuation_db:g} dB ±{p.tolerance_db:g} {show.power(p.rating_w)}" for p in made)


SPELLS_EXPECTED = "two things in turn, such as: A -61 -63 -60; B -58 -57; A -62"


def spells(text: str) -> list[ReadingsInTurn]:
    """`A -61 -63 -60; B -58 -57; A@8 -62`: a label, `@` and its minute if known, then readings. Raises `UnitError`."""
    out = []
    for part in re.split(r"\s*[;\n]\s*", read.clean(text).strip("; \n")):
        match = re.fullmatch(
            rf"(.*?\S)\s*(?:@\s*({read.NUMBER})(?:\s*min)?)?\s*[:\s]\s*((?:{read.NUMBER}[\s,]*)+)", part
        )
        if not match or re.fullmatch(read.NUMBER, match[1].strip()):
            raise read.UnitError(SPELLS_EXPECTED, text)
        values = [read.number(n) for n in re.findall(read.NUMBER, match[3].replace(", ", " "))]
        out.append(
            ReadingsInTurn(
                label=match[1].strip(" :"), minute=read.number(match[2]) if match[2] else None, values=values
            )
        )
    if len({spell.label for spell in out}) != 2:
        raise read.UnitError(SPELLS_EXPECTED, text)
    return out


def spells_text(made: list[ReadingsInTurn]) -> str:
    return "; ".join(
        f"{s.label}{'' if s.minute is None else f' @{s.minute:g}'} {' '.join(f'{v:g}' for v in s.values)}" for s in made
    )


IN_TURN_EXPECTED = "readings in turn by what was connected, such as “AB -43.1 -43.2; AC -44.0; BC -46.2; AB -43.0” or “A -43; R -47; A -43”"
MOST_IN_TURN = 200


def in_turn(text: str) -> list[ReadingsInTurn]:
    """`AB -43.1 -43.2; AC -44.0; BC@12 -46.2`: letters for what was connected, `@` and its minute if known, readings. Raises `UnitError`."""
    out = []
    for part in filter(None, re.split(r"\s*[;\n]\s*", read.clean(text))):
        match = re.fullmatch(
            rf"([A-Za-z]{{1,2}})\s*(?:@\s*({read.NUMBER}))?\s*:?\s+((?:{read.NUMBER}[\s,]*)+?)\s*(?:dBm)?", part
        )
        if not match:
            raise read.UnitError(IN_TURN_EXPECTED, text)
        values = [read.number(n) for n in re.findall(read.NUMBER, match[3].replace(", ", " "))]
        label = "".join(sorted(match[1].upper()))
        out.append(ReadingsInTurn(label=label, minute=read.number(match[2]) if match[2] else None, values=values))
    if not 1 <= len(out) <= MOST_IN_TURN:
        raise read.UnitError(IN_TURN_EXPECTED, text)
    return out


OWN_EXPECTED = "things by name, each with how it was, such as “hand: left; reflector: on”"


def own_levels(text: str) -> dict[str, str]:
    """`hand: left; reflector: on`: factors by the user's own names, each with its level. Raises `UnitError`."""
    out: dict[str, str] = {}
    for part in filter(None, re.split(r"\s*[;\n]\s*", text.strip())):
        name, colon, level = (piece.strip() for piece in part.partition(":"))
        if not (name and colon and level) or name.lower() in (known.lower() for known in out):
            raise read.UnitError(OWN_EXPECTED, text)
        out[name] = level
    return out


def own_levels_text(made: dict[str, str]) -> str:
    return "; ".join(f"{name}: {level}" for name, level in made.items())


Treatment = Literal["compared", "block", "left out"]
TREATED_AS: dict[Treatment, str] = {"compared": "compared", "block": "compared within", "left out": "left out"}
TREATED_EXPECTED = f"what differed and how it is meant ({', '.join(TREATED_AS.values())}), such as “weather: compared; battery: left out”"


def treated(text: str) -> dict[str, Treatment]:
    """`weather: compared; day: compared within; battery: left out`. Raises `UnitError`."""
    try:
        said = own_levels(text)
    except read.UnitError as error:
        raise read.UnitError(TREATED_EXPECTED, text) from error
    meant = {words: key for key, words in TREATED_AS.items()}
    for name, level in said.items():
        if level.lower() not in meant:
            raise read.UnitError(TREATED_EXPECTED, f"{name}: {level}")
    return {name: meant[level.lower()] for name, level in said.items()}


def treated_text(made: dict[str, Treatment]) -> str:
    return "; ".join(f"{name}: {TREATED_AS[how]}" for name, how in made.items())


class Band(Part, frozen=True, kw_only=True):
    """A band with its own SWR limit."""

    low_hz: Positive
    high_hz: Positive
    swr_limit: Annotated[float, Meta(gt=1, le=99)] = 1.5

    @property
    def centre_hz(self) -> float:
        return 0.5 * (self.low_hz + self.high_hz)


BANDS_EXPECTED = "bands, each with its SWR limit, such as “430–440 MHz 2; 1240–1300 MHz 2.5”"


def bands(text: str) -> list[Band]:
    """`430–440 MHz 2; 1240–1300 MHz`: a band, then its SWR limit (1.5 if not given). Raises `UnitError`."""
    out = []
    for part in filter(None, re.split(r"\s*[;\n]\s*", read.clean(text))):
        match = re.fullmatch(rf"(.*?[A-Za-z])(?:\s+(?:SWR\s*)?({read.NUMBER})(?:\s*:\s*1)?)?", part, re.IGNORECASE)
        if not match:
            raise read.UnitError(BANDS_EXPECTED, text)
        low, high = read.band(match[1])
        limit = read.number(match[2]) if match[2] else 1.5
        if not 1 < limit <= 99:
            raise read.UnitError(BANDS_EXPECTED, text)
        out.append(Band(low_hz=low, high_hz=high, swr_limit=limit))
    return out


def bands_text(made: list[Band]) -> str:
    return "; ".join(f"{show.band(b.low_hz, b.high_hz)} {b.swr_limit:g}" for b in made)


BANDS = Quantity(bands, lambda made: f"{show.count(len(made), 'further band')}: {bands_text(made)}", bands_text)


class Mark(Part, frozen=True, kw_only=True):
    """A moment of a recording by its name: the turn, behind the trees. What follows it, up to the next, is a stretch."""

    at_s: NotNegative
    name: str


MARKS_EXPECTED = "moments and what they are, such as “0 start; 40 s turn; 1:05 trees”"


def marks(text: str) -> list[Mark]:
    """`40 s turn; 1:05 trees`: seconds from the beginning, or minutes and seconds, then a name. In order. Raises `UnitError`."""
    out = []
    for part in filter(None, re.split(r"\s*[;\n]\s*", read.clean(text))):
        match = re.fullmatch(rf"(?:(\d+):(\d\d(?:\.\d+)?)|({read.NUMBER})\s*(?:s\b)?)\s*(\S.*)", part)
        if not match:
            raise read.UnitError(MARKS_EXPECTED, text)
        at_s = int(match[1]) * 60 + float(match[2]) if match[1] else read.number(match[3])
        if at_s < 0:
            raise read.UnitError(MARKS_EXPECTED, text)
        out.append(Mark(at_s=at_s, name=match[4].strip()))
    return sorted(out, key=lambda mark: mark.at_s)


def marks_text(made: list[Mark]) -> str:
    return "; ".join(f"{m.at_s:g} s {m.name}" for m in made)


MARKS = Quantity(marks, lambda made: ", ".join(f"{m.name} at {m.at_s:g} s" for m in made), marks_text)


class Lost(Part, frozen=True, kw_only=True):
    """A quantity of a log by its name, and the reading below which it is of no use."""

    name: str
    below: Finite


LOST_EXPECTED = "names with a number each, such as “picture -92, telemetry -104, control 50”"


def lost(text: str) -> list[Lost]:
    """`picture -92, telemetry -104 dBm; control 50 %`, one after the other. Raises `UnitError`."""
    out = []
    for part in filter(None, re.split(r"\s*(?:;|\n|,\s)\s*", read.clean(text).strip(" ,;"))):
        match = re.fullmatch(rf"(\D*?[^\W\d]\D*?)[\s:]+({read.NUMBER})\s*(?:dBm|dB|%)?", part, re.IGNORECASE)
        if not match:
            raise read.UnitError(LOST_EXPECTED, text)
        out.append(Lost(name=match[1].strip(), below=read.number(match[2])))
    return out


LOST = Quantity(
    lost,
    lambda made: ", ".join(f"{one.name} below {one.below:g}" for one in made),
    lambda made: ", ".join(f"{one.name} {one.below:g}" for one in made),
)
IN_TURN = Quantity(
    in_turn, lambda made: ", ".join(f"{s.label}: {show.count(len(s.values), 'reading')}" for s in made), spells_text
)


def several_levels(text: str) -> list[float]:
    """`-43.1 -42.6, -44`: levels one after the other. Raises `UnitError`."""
    words = list(filter(None, re.split(r"[\s,;]+", read.clean(text).replace("dBm", " "))))
    if not words:
        raise read.UnitError("levels one after the other, such as -43.1 -42.6 -44.0", text)
    return [read.number(word) for word in words]


SEVERAL = Quantity(
    several_levels, lambda made: show.count(len(made), "level"), lambda made: " ".join(f"{v:g}" for v in made)
)
LEVELS = Quantity(own_levels, lambda made: show.count(len(made), "thing"), own_levels_text)
TREATED = Quantity(treated, treated_text, treated_text)
POINTS = Quantity(points, points_text, points_text)
CURVE = Quantity(curve, curve_text, curve_text)
PADS = Quantity(pads, lambda made: f"{sum(p.attenuation_db for p in made):g} dB in all: {pads_text(made)}", pads_text)
SPELLS = Quantity(
    spells, lambda made: ", ".join(f"{s.label}: {show.count(len(s.values), 'reading')}" for s in made), spells_text
)
