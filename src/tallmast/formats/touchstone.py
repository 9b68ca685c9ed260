"""Touchstone 1 and 2 in (through scikit-rf), Touchstone 1.1 and 2.0 out.

scikit-rf does the reading, of a plain file of its head and first rows alone, NumPy of the rest; before it, the lines are looked over
once, because a person wants to hear which line is wrong.
"""

from __future__ import annotations

import io
import re
from functools import cache
from pathlib import PurePath
from typing import TYPE_CHECKING, Literal

import numpy as np
from numpy.typing import NDArray

from tallmast.frozen import Frozen

from .errors import FormatError
from .format import Format, Seen, Start
from .layout import LONGEST_LINE
from .table import HIGHEST_HZ
from .text import decode

if TYPE_CHECKING:
    from skrf.io.touchstone import Touchstone

Version = Literal["1.1", "2.0"]
NUMBER = re.compile(r"[-+]?(?:\d++(?:\.\d*+)?|\.\d++)(?:[eEdD][-+]?\d++)?")
MOST_PORTS, MOST_DIGITS = 32, 12

OPTION_LINE = re.compile(r"^[ \t]*#", re.MULTILINE)
OPTIONS = ("hz", "khz", "mhz", "ghz", "s", "ri", "ma", "db", "r")
REFERENCE = re.compile(r"\([-+.\de]+j\)")
"""A complex reference, as some programs write it: (50+10j)."""


class Reflection(Frozen, eq=True):
    """Γ of one port over frequency (Hz, ascending), referred to 50 Ω, and what was odd about the file."""

    frequency_hz: NDArray[np.float64]
    gamma: NDArray[np.complex128]
    ports: int
    port: int
    notes: tuple[str, ...] = ()


def ports_of(name: str, text: str) -> int:
    """Number of ports, by the file's own words in version 2, else by its name."""
    stated = "[" in text and re.search(r"^\s*\[number of ports\]\s*(\d+)", text, re.IGNORECASE | re.MULTILINE)
    if stated:
        return int(stated[1][:MOST_DIGITS])
    ending = re.fullmatch(r"\.s(\d+)p", PurePath(name).suffix.lower())
    if ending:
        return int(ending[1])
    # A wrong ending: three numbers on the first line of data is one port, nine is two.
    for line in text.splitlines():
        body = line.split("!")[0].split()
        if body and not body[0].startswith(("#", "[")):
            return 2 if len(body) >= 9 else 1
    return 1


HEAD = re.compile(r"(?:[ \t]*+(?:![^\n]*+)?\n)*+[ \t]*+#[^\n]*+\n")


_ODD, _BLANK, _END, _NUMERAL = range(4)
_LETTERS = np.full(256, _ODD, dtype=np.uint8)
_LETTERS[list(b" \t")], _LETTERS[ord("\n")], _LETTERS[list(b"0123456789+-.eEdD")] = _BLANK, _END, _NUMERAL


def _plain_end(text: str, ports: int) -> int:
    """Where the first few lines of a file end whose every line is right at a glance; 0 if it must be looked over.

    As many words in every line as there should be, made of nothing but what numbers are made of: most files are so,
    and the glance takes a tenth of the time. Whether each word is a number, whoever turns it into one will say.
    """
    head = HEAD.match(text) if ports in (1, 2) else None
    if head is None or len(text) < head.end() + 4000 or not text.isascii():
        return 0
    letters = _LETTERS[np.frombuffer(text[head.end() :].encode("ascii"), dtype=np.uint8)]
    if letters.min() == _ODD:
        return 0
    inside = letters == _NUMERAL
    begins = np.flatnonzero(inside[1:] > inside[:-1]) + 1
    words = np.searchsorted(begins, np.flatnonzero(letters == _END)) + bool(inside[0])
    each = np.diff(words, prepend=0, append=len(begins) + bool(inside[0]))
    wanted = 1 + 2 * ports * ports
    if not ((each == wanted) | (each == 0)).all():
        return 0
    return max(text.find("\n", head.end() + 1000), head.end())


@cache
def _row(numbers: int) -> re.Pattern[str]:
    """A line of so many numbers and nothing else."""
    return re.compile(rf"{NUMBER.pattern}(?:\s+{NUMBER.pattern}){{{numbers - 1}}}")


def _number_in(line: str) -> str:
    """The first number after a keyword in brackets; empty if there is none. Cut to what can be one."""
    found = re.search(r"\]\s*(\d+)", line)
    return found[1][:MOST_DIGITS] if found else ""


def _look_over(text: str, name: str, ports: int) -> None:
    """Raise for the first line that can't be right."""
    if not 1 <= ports <= MOST_PORTS:
        raise FormatError(name, f"a file of {ports} ports; up to {MOST_PORTS} are read here", todo="Export one port")
    wanted = 1 + 2 * ports * ports
    # From three ports on a frequency goes over several lines: what makes a row, whoever reads it will say.
    several = ports > 2
    row = _row(3 if several else wanted)
    option = rows = stated = 0
    skipping = False
    for number, line in enumerate(text.split("\n"), start=1):
        body = line.split("!")[0].strip()
        if not body:
            continue
        if len(body) > LONGEST_LINE:
            raise FormatError(name, "a line of more than 20 000 characters", number, "Is it a Touchstone file")
        if body.startswith("["):
            word = body[1 : body.find("]")].strip().lower()
            skipping = word in ("reference", "noise data", "begin information")
            if word in ("end information", "network data"):
                skipping = False
            if word == "number of frequencies":
                stated = int(_number_in(body) or 0)
            if word == "end":
                break
            continue
        if body.startswith("#"):
            if option:
                continue
            option = number
            words = body[1:].lower().split()
            for word in words:
                if word in ("y", "z", "h", "g"):
                    raise FormatError(
                        name, f"holds {word.upper()} parameters, not reflection (S)", number, "Export S parameters"
                    )
                if word not in OPTIONS and not (NUMBER.fullmatch(word) or REFERENCE.fullmatch(word)):
                    raise FormatError(name, f"“{word}” is not known in the option line", number)
            continue
        if skipping:
            continue
        if not several and row.fullmatch(body):
            rows += 1
            continue
        tokens = body.split()
        for token in tokens:
            if not NUMBER.fullmatch(token):
                odd = token.lower().lstrip("+-") in ("nan", "inf", "infinity", "1.#ind", "1.#inf", "1.#qnan")
                what = f"“{token[:30]}” is not a finite number" if odd else f"“{token[:30]}” is not a number"
                raise FormatError(name, what, number, "Mend or leave out that line")
        if not several and len(tokens) != wanted:
            if ports == 2 and rows and len(tokens) == 5:
                break  # noise data of a version 1 file
            what = f"{len(tokens)} numbers where {wanted} are expected for {ports} port{'s' if ports > 1 else ''}"
            raise FormatError(name, what, number, "It may be cut off, or its ending may be wrong")
        rows += 1
    if rows == 0:
        raise FormatError(name, "no data lines were found", todo="Is it a Touchstone file")
    if stated and rows != stated and not several:
        what = f"says it holds {stated} frequencies, and holds {rows}"
        raise FormatError(name, what, todo="It may be cut off: save it again")


def _stream(text: str, ports: int) -> io.StringIO:
    """The text as scikit-rf wants it: it takes the number of ports from the name, so it gets one that tells the truth."""
    stream = io.StringIO(text if text.endswith("\n") else text + "\n")
    stream.name = f"read.s{ports}p"
    return stream


def _all_rows(text: str, first: Touchstone) -> tuple[NDArray[np.float64], NDArray[np.complex128]]:
    """Frequencies and S [row, 1, 1] of a plain file of one port, as scikit-rf made them of its first rows, but in one piece: row by row it
    takes five times as long. Raises ValueError for a word that is no number."""
    head = HEAD.match(text)
    assert head is not None
    rows = np.loadtxt(io.StringIO(text[head.end() :]), ndmin=2)
    if first.format == "ri":
        s = rows[:, 1] + 1j * rows[:, 2]
    else:
        size = rows[:, 1] if first.format == "ma" else 10.0 ** (rows[:, 1] / 20.0)
        s = size * np.exp(1j * rows[:, 2] * np.pi / 180)
    return rows[:, 0] * first.frequency_mult, s[:, None, None]


def _renormalized(stream: io.StringIO) -> tuple[NDArray[np.float64], NDArray[np.complex128], NDArray[np.complex128]]:
    """Frequencies, S referred to 50 Ω, and the references (frequencies × ports) that it was written for.

    By scikit-rf, with power waves where a reference is complex (Kurokawa 1965), as programs that write such files do.
    """
    from skrf import Network

    network = Network(stream)
    written = np.array(network.z0)
    network.renormalize(50.0)
    return network.f, network.s, written


def _ohm(reference: NDArray[np.complex128], port: int) -> str:
    """A reference in words; one that changes with frequency is said to."""
    own = reference[:, min(port, reference.shape[1]) - 1] if reference.ndim == 2 else reference
    first = complex(own[0])
    if np.abs(own - first).max() > 1e-6 * abs(first):
        return "a reference that changes with frequency"
    return f"{first.real:g} Ω" if abs(first.imag) < 1e-9 else f"({first.real:g}{first.imag:+g}j) Ω"


def read(data: bytes, name: str, port: int = 1) -> Reflection:
    """Γ at `port` (S11 or S22) of a Touchstone file in any number format and frequency unit.

    A reference other than 50 Ω is turned into 50 Ω. Lines out of order are sorted, a repeated frequency keeps
    its first line; both are noted. Raises `FormatError`. Source: Touchstone File Format Specification 2.0.
    """
    text = decode(data, name)
    ports = ports_of(name, text)
    plain = _plain_end(text, ports)
    _look_over(text[:plain] if plain else text, name, ports)
    if not 1 <= port <= ports:
        raise FormatError(name, f"has {ports} port{'s' if ports > 1 else ''}; there is no port {port}")
    notes: list[str] = []
    if not OPTION_LINE.search(text):
        notes.append("no option line: GHz, magnitude and angle were taken, as the standard says")
        text = "# GHz S MA R 50\n" + text
    from skrf.io.touchstone import Touchstone

    try:
        with np.errstate(all="ignore"):  # what is not finite is told below
            file = Touchstone(_stream(text[:plain] if plain and ports == 1 else text, ports))
            frequency, scattering = file.get_sparameter_arrays()
            reference = np.atleast_1d(np.asarray(file.z0, dtype=complex))
            if np.abs(reference - 50.0).max() > 1e-6:
                frequency, scattering, reference = _renormalized(_stream(text, ports))
            elif plain and ports == 1:
                frequency, scattering = _all_rows(text, file)
    except Exception as error:
        raise FormatError(
            name,
            "its lines of numbers make no Touchstone data",
            todo="It may be cut off, or hold another number of ports",
        ) from error
    frequency = np.asarray(frequency, dtype=float)
    gamma = np.asarray(scattering, dtype=complex)[:, port - 1, port - 1]
    if not (np.isfinite(frequency).all() and np.isfinite(gamma).all()):
        raise FormatError(name, "holds values that are not finite", todo="Sweep again, or leave those lines out")
    if (frequency <= 0).any() or frequency.max() > HIGHEST_HZ:
        raise FormatError(name, "holds a frequency of zero or less, or above 10 THz", todo="Check its unit")
    if (np.diff(frequency) < 0).any():
        notes.append("frequencies were out of order, and were sorted")
    frequency, first = np.unique(frequency, return_index=True)
    if len(first) < len(gamma):
        repeated = len(gamma) - len(first)
        notes.append(f"{repeated} repeated frequenc{'y' if repeated == 1 else 'ies'}: the first line of each was kept")
    gamma = gamma[first]
    if len(frequency) < 3:
        raise FormatError(name, f"holds only {len(frequency)} frequencies; a sweep needs three or more")
    if np.abs(reference - 50.0).max() > 1e-6:
        notes.append(f"turned from {_ohm(reference, port)} to 50 Ω")
    if np.abs(gamma).max() > 1.2:
        notes.append("more comes back than goes in at some frequencies: check the calibration")
    return Reflection(frequency, gamma, ports, port, tuple(notes))


def write(
    frequency_hz: NDArray[np.float64], gamma: NDArray[np.complex128], comment: str = "", version: Version = "1.1"
) -> str:
    """A one-port file, Hz, real and imaginary, to the last digit that a float carries.

    Version 1.1 is read by everything; 2.0 states its number of ports and frequencies, so a file that was cut off is
    noticed. Source: Touchstone File Format Specification 2.0.
    """
    lines = [f"! {line}" for line in comment.splitlines()]
    if version == "2.0":
        lines += ["[Version] 2.0", "# Hz S RI R 50", "[Number of Ports] 1"]
        lines += [f"[Number of Frequencies] {len(frequency_hz)}", "[Reference] 50", "[Network Data]"]
    else:
        lines += ["# Hz S RI R 50"]
    lines += [f"{f!r} {g.real!r} {g.imag!r}" for f, g in zip(frequency_hz.tolist(), gamma.tolist(), strict=True)]
    if version == "2.0":
        lines.append("[End]")
    return "\n".join(lines) + "\n"


def _recognise(start: Start) -> Seen | None:
    option = re.search(r"^\s*#\s*([kmg]?hz\b|s\b|ri\b|ma\b|db\b)", start.text, re.IGNORECASE | re.MULTILINE)
    if option or re.search(r"^\s*\[version\]", start.text, re.IGNORECASE | re.MULTILINE):
        return Seen(1.0, "an option line of Touchstone")
    return Seen(0.95, f"its ending, {start.suffix}") if re.fullmatch(r"\.s\d+p", start.suffix) else None


FORMAT = Format("touchstone", "a sweep (Touchstone)", _recognise, lambda data, name, columns: read(data, name))
