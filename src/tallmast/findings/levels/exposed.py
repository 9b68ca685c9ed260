"""What a receiver's input will see of the transmitters around, before it is exposed to them."""

from __future__ import annotations

import math

import numpy as np

from tallmast.frozen import Frozen
from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import Antenna, Emitter, GainTable
from tallmast.physics.field_strength import (
    antenna_factor_db,
    eirp_w,
    field_dbuv_per_m,
    field_of_received,
    field_v_per_m,
    gain_from_table,
    received_dbm,
    total_dbm,
)
from tallmast.units import show

from ..figure import Figure, Working
from .pieces import Drawer
from .plan import PlanInputs

EMITTER_U_DB = 3.0
"""Doubt of somebody else's EIRP and of the way to him."""


class Seen(Frozen):
    """One transmitter as it arrives at the receiver's input."""

    emitter: Emitter
    level: Figure


class Exposed(Frozen):
    seen: tuple[Seen, ...]
    total: Figure


def gain_at(
    evidence: Evidence, antenna: Antenna | None, frequency_hz: float, working: Figure, centre_hz: float
) -> tuple[float, float, str]:
    """(dBi, u dB, basis) of an antenna at any frequency: by its calibrated table, else as at its own band, with an uncertainty
    that grows by 3 dB an octave."""
    tables = [t for t in evidence.all(GainTable) if antenna is not None and t.antenna_id == antenna.id]
    if tables:
        series = evidence.series(tables[-1].series_id)
        order = np.argsort(series["frequency_hz"])
        f, gain, u = (np.asarray(series[k])[order] for k in ("frequency_hz", "gain_dbi", "u_db"))
        value, u_db = gain_from_table(frequency_hz, f, gain, u)
        inside = f[0] <= frequency_hz <= f[-1]
        return float(value), float(u_db), "by its table" if inside else "by its table, beyond its end"
    off = abs(math.log2(frequency_hz / centre_hz))
    return working.value, math.hypot(working.u, 3.0 * off), "as in its band" if off > 0.1 else "as measured"


def exposed(evidence: Evidence, ends: PlanInputs, antenna: Antenna | None) -> Exposed | None:
    """Every emitter noted, at home's receiver; None without any."""
    emitters = evidence.all(Emitter)
    if not emitters:
        return None
    seen = []
    for emitter in emitters:
        if emitter.field_v_per_m is not None:
            field, source = emitter.field_v_per_m, f"field {show.field_strength(emitter.field_v_per_m)}"
        elif emitter.eirp_w is not None and emitter.distance_m is not None:
            field = field_v_per_m(emitter.eirp_w, emitter.distance_m)
            source = f"{show.power(emitter.eirp_w)} EIRP at {show.distance(emitter.distance_m)}: {show.field_strength(field)}"
        else:
            continue
        gain, u, basis = gain_at(evidence, antenna, emitter.frequency_hz, ends.gain, ends.frequency_hz)
        after, after_u = _after(ends, emitter.frequency_hz)
        level = received_dbm(field, emitter.frequency_hz, gain) + after
        whole = math.hypot(u, after_u, EMITTER_U_DB)
        seen.append(
            Seen(
                emitter,
                Figure(
                    f"{emitter.name} at the receiver",
                    level,
                    whole,
                    "dBm",
                    Working(
                        (
                            source,
                            f"gain {show.plus(gain, 1)} dBi at {show.frequency(emitter.frequency_hz)}, {basis}",
                            f"to the receiver {show.plus(after, 1)} dB",
                            f"= {show.level(level)}",
                        ),
                        (
                            ("the transmitter and its way", f"{EMITTER_U_DB:g} dB"),
                            ("gain there", f"{u:.1f} dB"),
                            ("feed", f"{after_u:.1f} dB"),
                        ),
                        "Rec. ITU-R P.525; aperture Gλ²/4π",
                        "In free space and straight into the antenna’s front: the most that it will be.",
                    ),
                ),
            )
        )
    if not seen:
        return None
    levels = [s.level.value for s in seen]
    total = total_dbm(levels)
    power = [10.0 ** (v / 10.0) for v in levels]
    u = math.sqrt(sum((p * s.level.u) ** 2 for p, s in zip(power, seen, strict=True))) / sum(power)
    figure = Figure(
        "all of them together",
        total,
        u,
        "dBm",
        Working(
            (
                *(f"{s.emitter.name[:16]:<16} {show.level(s.level.value)}" for s in seen),
                f"together {show.level(total)}",
            ),
            tuple(
                (s.emitter.name, show.decibel(p * s.level.u / sum(power), 2))
                for p, s in zip(power, seen, strict=True)
                if p > 0.01 * sum(power)
            ),
            "powers add",
            "What the input has to bear besides the wanted signal.",
        ),
    )
    return Exposed(tuple(seen), figure)


def _after(ends: PlanInputs, frequency_hz: float) -> tuple[float, float]:
    """(dB, u) from the antenna to the receiver at another frequency: filters and cables are not alike everywhere."""
    drawer: Drawer = ends.drawer
    change, variance = -ends.near.cable_loss_db - ends.near.pad_db, ends.near.cable_u_db**2
    variance += sum(pad.tolerance_db**2 / 3.0 for pad in ends.near.pads)
    for piece, setting in drawer.placed(ends.near.placed):
        taken = drawer.taken(piece, setting, frequency_hz)
        change -= taken.loss_db
        variance += taken.whole_u_db**2
    return change, math.sqrt(variance)


def field_figure(
    kind: str,
    value: float,
    distance_m: float | None,
    frequency_hz: float,
    gain_dbi: float,
    gain_u_db: float,
    basis: str,
) -> Figure:
    """The level that an antenna takes up, from an EIRP ('eirp', W) at a distance, or a field ('field', V/m); the field,
    from a 'level' in dBm. With a distance the EIRP that makes the field is told too."""
    if kind == "eirp":
        assert distance_m is not None
        field = field_v_per_m(value, distance_m)
    elif kind == "field":
        field = value
    else:
        field = field_of_received(value, frequency_hz, gain_dbi)
    level = received_dbm(field, frequency_hz, gain_dbi)
    factor = antenna_factor_db(frequency_hz, gain_dbi)
    lines = [
        f"field        {show.field_strength(field)}, {show.fixed(field_dbuv_per_m(field), 1)} dBµV/m",
        f"density      {show.density(field)}",
        f"gain         {show.plus(gain_dbi, 2)} dBi, {basis}",
        f"factor       {show.plus(factor, 1)} dB/m in 50 Ω",
        f"level        {show.level(level)}, {show.voltage(level)}",
    ]
    if distance_m:
        lines.append(f"made by      {show.power(eirp_w(field, distance_m))} EIRP at {show.distance(distance_m)}")
    working = Working(
        tuple(lines),
        (("gain", f"{gain_u_db:.2f} dB"),) if gain_u_db else (),
        "E = √(30·EIRP)/d (Rec. ITU-R P.525); AF = 20 log₁₀(9.73/λ√G)",
        "Four times the field is four times the voltage, 12 dB; four times the density is 6 dB.",
    )
    if kind == "level":
        relative = math.log(10.0) / 20.0 * gain_u_db
        return Figure("field at the antenna", field * 1e6, field * 1e6 * relative, "µV/m", working)
    return Figure(
        "level at the antenna’s connector", level, gain_u_db, "dBm", working, digits=1 if not gain_u_db else None
    )
