"""Touchstone 1 and 2 in (through scikit-rf), Touchstone 1.1 out.

scikit-rf does the reading; before it, the lines are looked over once, because a person wants to hear which line
is wrong.
"""

from __future__ import annotations

import io
import re
from dataclasses import dataclass
from functools import cache
from pathlib import PurePath

import numpy as np
from numpy.typing import NDArray

from .errors import FormatError
from .text import decode

NUMBER = re.compile(r"[-+]?(?:\d+\.?\d*|\.\d+)(?:[eEdD][-+]?\d+)?")


@dataclass(frozen=True)
class Reflection:
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
        return int(stated[1])
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


NUMERALS = "0123456789+-.eEdD \t\n"


def _plain_end(text: str, ports: int) -> int:
    """Where the first few lines of a file end whose every line is right at a glance; 0 if it must be looked over.

    As many words in every line as there should be, made of nothing but what numbers are made of: most files are so,
    and the glance takes a fifth of the time. Whether each word is a number, whoever turns it into one will say.
    """
    head = HEAD.match(text) if ports in (1, 2) else None
    if head is None or len(text) < head.end() + 4000:
        return 0
    body = text[head.end() :]
    if body.strip(NUMERALS) or {len(line.split()) for line in body.split("\n")} - {0} != {1 + 2 * ports * ports}:
        return 0
    return max(text.find("\n", head.end() + 4000), head.end())


@cache
def _row(numbers: int) -> re.Pattern[str]:
    """A line of so many numbers and nothing else."""
    return re.compile(rf"{NUMBER.pattern}(?:\s+{NUMBER.pattern}){{{numbers - 1}}}")


def _look_over(text: str, name: str, ports: int) -> None:
    """Raise for the first line that can't be right."""
    if ports not in (1, 2):
        raise FormatError(name, f"a file of {ports} ports; one and two are read here", todo="Export one port")
    wanted = 1 + 2 * ports * ports
    row = _row(wanted)
    option = 0
    rows = 0
    skipping = False
    for number, line in enumerate(text.split("\n"), start=1):
        body = line.split("!")[0].strip()
        if not body:
            continue
        if body.startswith("["):
            word = body[1 : body.find("]")].strip().lower()
            skipping = word in ("reference", "noise data", "begin information")
            if word in ("end information", "network data"):
                skipping = False
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
                if word not in ("hz", "khz", "mhz", "ghz", "s", "ri", "ma", "db", "r") and not NUMBER.fullmatch(word):
                    raise FormatError(name, f"“{word}” is not known in the option line", number)
            continue
        if skipping:
            continue
        if row.fullmatch(body):
            rows += 1
            continue
        tokens = body.split()
        for token in tokens:
            if not NUMBER.fullmatch(token):
                odd = token.lower().lstrip("+-") in ("nan", "inf", "infinity", "1.#ind", "1.#inf", "1.#qnan")
                what = f"“{token[:30]}” is not a finite number" if odd else f"“{token[:30]}” is not a number"
                raise FormatError(name, what, number, "Mend or leave out that line")
        if len(tokens) != wanted:
            if ports == 2 and rows and len(tokens) == 5:
                break  # noise data of a version 1 file
            what = f"{len(tokens)} numbers where {wanted} are expected for {ports} port{'s' if ports > 1 else ''}"
            raise FormatError(name, what, number, "It may be cut off, or its ending may be wrong")
        rows += 1
    if rows == 0:
        raise FormatError(name, "no data lines were found", todo="Is it a Touchstone file")


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
    if not any(line.lstrip().startswith("#") for line in text.splitlines()):
        notes.append("no option line: GHz, magnitude and angle were taken, as the standard says")
        text = "# GHz S MA R 50\n" + text
    from skrf.io.touchstone import Touchstone

    # scikit-rf takes the number of ports from the name, so it gets one that tells the truth.
    stream = io.StringIO(text if text.endswith("\n") else text + "\n")
    stream.name = f"read.s{ports}p"
    try:
        file = Touchstone(stream)
        frequency, scattering = file.get_sparameter_arrays()
        reference = complex(np.asarray(file.z0).ravel()[min(port, np.asarray(file.z0).size) - 1])
    except Exception as error:
        raise FormatError(name, f"can't be read as Touchstone ({str(error).splitlines()[0][:80]})") from error
    frequency = np.asarray(frequency, dtype=float)
    gamma = np.asarray(scattering, dtype=complex)[:, port - 1, port - 1]
    if not (np.isfinite(frequency).all() and np.isfinite(gamma).all()):
        raise FormatError(name, "holds values that are not finite", todo="Sweep again, or leave those lines out")
    if (frequency <= 0).any():
        raise FormatError(name, "holds a frequency of zero or less")
    if (np.diff(frequency) < 0).any():
        notes.append("frequencies were out of order, and were sorted")
    frequency, first = np.unique(frequency, return_index=True)
    if len(first) < len(gamma):
        repeated = len(gamma) - len(first)
        notes.append(f"{repeated} repeated frequenc{'y' if repeated == 1 else 'ies'}: the first line of each was kept")
    gamma = gamma[first]
    if len(frequency) < 3:
        raise FormatError(name, f"holds only {len(frequency)} frequencies; a sweep needs three or more")
    if np.abs(reference - 50.0) > 1e-6:
        z = reference * (1 + gamma) / (1 - gamma)
        gamma = (z - 50.0) / (z + 50.0)
        notes.append(f"turned from {reference.real:g} Ω to 50 Ω")
    if np.abs(gamma).max() > 1.2:
        notes.append("more comes back than goes in at some frequencies: check the calibration")
    return Reflection(frequency, gamma, ports, port, tuple(notes))


def write(frequency_hz: NDArray[np.float64], gamma: NDArray[np.complex128], comment: str = "") -> str:
    """A Touchstone 1.1 one-port file, Hz, real and imaginary, to the last digit that a float carries."""
    lines = [f"! {line}" for line in comment.splitlines()] + ["# Hz S RI R 50"]
    lines += [f"{f!r} {g.real!r} {g.imag!r}" for f, g in zip(frequency_hz.tolist(), gamma.tolist(), strict=True)]
    return "\n".join(lines) + "\n"
