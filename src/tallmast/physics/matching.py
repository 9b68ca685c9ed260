"""Ways to match a load: quarter-wave section, L network, single stub, and a harness for equal antennas.

Each is a network with ideal lines and lumped parts, so that what it would do to a measured sweep can be drawn
over it. Pozar, Microwave Engineering, 4th ed., §5.1 (L sections), §5.2 (single stub), §2.5 (quarter-wave).
"""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Literal

import numpy as np
from numpy.typing import ArrayLike

from tallmast.frozen import Frozen

from .constants import SPEED_OF_LIGHT, SYSTEM_IMPEDANCE
from .decibels import Floats
from .reflection import Complexes, gamma_from_impedance, impedance

E24 = (
    1.0,
    1.1,
    1.2,
    1.3,
    1.5,
    1.6,
    1.8,
    2.0,
    2.2,
    2.4,
    2.7,
    3.0,
    3.3,
    3.6,
    3.9,
    4.3,
    4.7,
    5.1,
    5.6,
    6.2,
    6.8,
    7.5,
    8.2,
    9.1,
)
"""Preferred values of IEC 60063, series E24."""

Seen = Callable[[Floats, Complexes], Complexes]
"""(frequency, load impedance) → impedance seen at the input, Ω."""


def stock_value(value: float) -> float:
    """The nearest value of series E24, by ratio."""
    decade = math.floor(math.log10(value))
    choices = [m * 10.0 ** (decade + shift) for shift in (-1, 0, 1) for m in E24]
    return min(choices, key=lambda choice: abs(math.log(choice / value)))


class Part(Frozen, eq=True):
    """A coil or capacitor of an L network; farad or henry."""

    kind: Literal["capacitor", "coil"]
    place: Literal["series", "shunt"]
    value: float

    @staticmethod
    def of_reactance(place: Literal["series", "shunt"], reactance_ohm: float, frequency_hz: float) -> Part:
        """The part that has a reactance at a frequency; positive is a coil."""
        w = 2 * math.pi * frequency_hz
        if reactance_ohm > 0:
            return Part("coil", place, reactance_ohm / w)
        return Part("capacitor", place, -1.0 / (w * reactance_ohm))

    def impedance(self, frequency_hz: Floats) -> Complexes:
        """Ω at its input, [point]; frequencies in Hz, above zero."""
        w = 2 * np.pi * frequency_hz
        return np.asarray(1j * w * self.value if self.kind == "coil" else -1j / (w * self.value))

    def stock(self) -> Part:
        """With the nearest value on the shelf."""
        return Part(self.kind, self.place, stock_value(self.value))


class Match(Frozen):
    """A way to match: its name, its parts in words from the load to the radio, and what it makes of a load."""

    name: str
    parts: tuple[str, ...]
    seen: Seen

    def gamma(self, frequency_hz: ArrayLike, load_gamma: ArrayLike) -> Complexes:
        """Γ at its input with a measured load behind it. Both [point]: frequency in Hz, Γ as measured."""
        f = np.asarray(frequency_hz, dtype=float)
        return gamma_from_impedance(self.seen(f, impedance(load_gamma)))


def line(
    load_ohm: ArrayLike, frequency_hz: ArrayLike, length_m: float, z0_ohm: float, velocity_factor: float
) -> Complexes:
    """Impedance through a lossless line: Z₀(Z_L + jZ₀·tan βl)/(Z₀ + jZ_L·tan βl), written so that a quarter wave is finite.

    Shapes of load and frequency broadcast; no frequency at zero.
    """
    f, z = np.asarray(frequency_hz, dtype=float), np.asarray(load_ohm, dtype=complex)
    beta = 2 * np.pi * f / (SPEED_OF_LIGHT * velocity_factor) * length_m
    cos, sin = np.cos(beta), np.sin(beta)
    return np.asarray(z0_ohm * (z * cos + 1j * z0_ohm * sin) / (z0_ohm * cos + 1j * z * sin))


def _quantity(part: Part) -> str:
    scale, unit = (1e9, "nH") if part.kind == "coil" else (1e12, "pF")
    return f"{part.place} {part.kind} {part.value * scale:.3g} {unit}"


def l_networks(load_ohm: complex, frequency_hz: float, z0_ohm: float = SYSTEM_IMPEDANCE) -> list[tuple[Part, Part]]:
    """Every real L network that turns a load into Z₀ at a frequency, parts from the load to the radio.

    With the shunt part at the load (needs R_L·… > 0): B = (X ± √(R/Z₀)·√(R² + X² − Z₀R))/(R² + X²),
    X_s = 1/B + XZ₀/R − Z₀/(BR). With the series part at the load (R < Z₀): X_s = ±√(R(Z₀−R)) − X,
    B = ±√((Z₀−R)/R)/Z₀. Pozar eqs. 5.3–5.6. A part that would be nothing is left as it comes out.
    """
    r, x = load_ohm.real, load_ohm.imag
    out: list[tuple[Part, Part]] = []
    if r <= 0:
        return out
    inside = r * r + x * x - z0_ohm * r
    if inside >= 0:
        for sign in (1, -1):
            b = (x + sign * math.sqrt(r / z0_ohm) * math.sqrt(inside)) / (r * r + x * x)
            if abs(b) < 1e-12:
                continue
            series = 1 / b + x * z0_ohm / r - z0_ohm / (b * r)
            if abs(series) > 1e-9:
                out.append(
                    (
                        Part.of_reactance("shunt", -1 / b, frequency_hz),
                        Part.of_reactance("series", series, frequency_hz),
                    )
                )
    if r < z0_ohm:
        for sign in (1, -1):
            series = sign * math.sqrt(r * (z0_ohm - r)) - x
            b = sign * math.sqrt((z0_ohm - r) / r) / z0_ohm
            if abs(series) > 1e-9:
                out.append(
                    (
                        Part.of_reactance("series", series, frequency_hz),
                        Part.of_reactance("shunt", -1 / b, frequency_hz),
                    )
                )
    return out


def through_parts(parts: tuple[Part, ...]) -> Seen:
    """What parts, from the load to the radio, make of a load."""

    def seen(f: Floats, z: Complexes) -> Complexes:
        for part in parts:
            own = part.impedance(f)
            z = z + own if part.place == "series" else z * own / (z + own)
        return z

    return seen


def l_matches(load_ohm: complex, frequency_hz: float) -> list[Match]:
    """Every L network, once with exact values and once with those on the shelf."""
    out = []
    for pair in l_networks(load_ohm, frequency_hz):
        stocked = (pair[0].stock(), pair[1].stock())
        names = (_quantity(pair[0]), _quantity(pair[1]))
        out.append(Match("L network", names, through_parts(pair)))
        out.append(
            Match("L network, stock values", (_quantity(stocked[0]), _quantity(stocked[1])), through_parts(stocked))
        )
    return out


def quarter_wave(load_ohm: complex, frequency_hz: float, velocity_factor: float = 1.0) -> Match | None:
    """A quarter-wave section of √(Z₀R), for a load that is real (|X| under a tenth of R) at the frequency."""
    r, x = load_ohm.real, load_ohm.imag
    if r <= 0 or abs(x) > 0.1 * r:
        return None
    z_section = math.sqrt(SYSTEM_IMPEDANCE * r)
    length = SPEED_OF_LIGHT * velocity_factor / frequency_hz / 4
    return Match(
        "quarter-wave section",
        (f"{z_section:.1f} Ω line, {length * 1e3:.0f} mm",),
        lambda f, z: line(z, f, length, z_section, velocity_factor),
    )


def stubs(load_ohm: complex, frequency_hz: float, velocity_factor: float = 0.66) -> list[Match]:
    """Single shunt stub, open or shorted, in 50 Ω cable: every distance from the load and stub under half a wave.

    With t = tan βd: R_L = Z₀ gives t = −X/(2Z₀), else t = (X ± √(R((Z₀−R)² + X²)/Z₀))/(R − Z₀);
    B = (R²t − (Z₀ − Xt)(X + Z₀t))/(Z₀(R² + (X + Z₀t)²)); the stub cancels it. Pozar eqs. 5.8–5.11.
    """
    z0 = SYSTEM_IMPEDANCE
    r, x = load_ohm.real, load_ohm.imag
    if r <= 0:
        return []
    wave = SPEED_OF_LIGHT * velocity_factor / frequency_hz
    if abs(r - z0) < 1e-9:
        tangents = [-x / (2 * z0)]
    else:
        root = math.sqrt(r * ((z0 - r) ** 2 + x * x) / z0)
        tangents = [(x + root) / (r - z0), (x - root) / (r - z0)]
    out = []
    for t in tangents:
        away = (math.atan(t) / (2 * math.pi)) % 0.5 * wave
        b = (r * r * t - (z0 - x * t) * (x + z0 * t)) / (z0 * (r * r + (x + z0 * t) ** 2))
        for end in ("open", "short"):
            if end == "open":
                stub = (-math.atan(b * z0) / (2 * math.pi)) % 0.5 * wave
            else:
                stub = (math.atan(1 / (b * z0)) / (2 * math.pi)) % 0.5 * wave if abs(b) > 1e-12 else wave / 4
            out.append(
                Match(
                    f"{'open' if end == 'open' else 'shorted'} stub",
                    (f"{away * 1e3:.0f} mm of cable from the antenna", f"stub of {stub * 1e3:.0f} mm"),
                    _stubbed(away, stub, end == "open", velocity_factor),
                )
            )
    return out


def _stubbed(away_m: float, stub_m: float, is_open: bool, velocity_factor: float) -> Seen:
    def seen(f: Floats, z: Complexes) -> Complexes:
        z0 = SYSTEM_IMPEDANCE
        there = line(z, f, away_m, z0, velocity_factor)
        angle = 2 * np.pi * f / (SPEED_OF_LIGHT * velocity_factor) * stub_m
        admittance = (1j * np.tan(angle) if is_open else -1j / np.tan(angle)) / z0
        return np.asarray(1.0 / (1.0 / there + admittance))

    return seen


def harness(count: Literal[2, 4], frequency_hz: float, velocity_factor: float = 0.66) -> Match:
    """A harness that feeds two or four equal antennas from one cable.

    Two: each through a quarter wave of 75 Ω (more exactly 70.7 Ω), joined in parallel: 2·50 Ω ∥ 2·50 Ω = 50 Ω. Four:
    two such pairs joined the same way. Coupling between the antennas is left out; each doubling is worth 3 dB at most.
    """
    z_section = math.sqrt(2.0) * SYSTEM_IMPEDANCE
    length = SPEED_OF_LIGHT * velocity_factor / frequency_hz / 4

    def pair(f: Floats, z: Complexes) -> Complexes:
        return line(z, f, length, z_section, velocity_factor) / 2.0

    seen: Seen = pair if count == 2 else lambda f, z: pair(f, pair(f, z))
    rows = (f"{count} × {z_section:.1f} Ω line, {length * 1e3:.0f} mm each, joined in pairs",)
    return Match(f"harness for {'two' if count == 2 else 'four'}", rows, seen)
