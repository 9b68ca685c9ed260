"""How far people must stay away, by each published limit."""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import TYPE_CHECKING, get_args

from tallmast.frozen import Frozen
from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import HomeEnd
from tallmast.physics import exposure
from tallmast.physics.decibels import dbm_from_watt, watt_from_dbm
from tallmast.physics.field_strength import field_v_per_m
from tallmast.units import show

from ..aims import Aims, focus
from ..figure import Figure, Working
from .pieces import feed_loss
from .plan import PlanInputs, without_path

if TYPE_CHECKING:
    from ..gain import GainEvidence

GROUND = 2.56
"""Density with the ground's reflection against free space: field × 1.6 (FCC OET Bulletin 65, eq. 7)."""
HAND_HEIGHT_M = 2.5
"""Below this a grown person reaches an antenna."""
HOT_SHARE = 0.25
"""Of its rating: from here on a pad gets too hot to hold."""


class Clear(Frozen):
    """Clear distance by one limit, with and without the ground."""

    limit: exposure.Limit
    with_ground: Figure
    free_space: Figure

    @property
    def words(self) -> str:
        return exposure.SOURCES[self.limit].split(",")[0]


def _distance(eirp_w: float, duty: float, frequency_hz: float, limit: exposure.Limit, ground: float) -> Figure:
    density = exposure.power_density_limit(frequency_hz, limit)
    distance = exposure.clear_distance_m(eirp_w, duty, frequency_hz, limit, ground)
    factor = "·2.56" if ground != 1.0 else ""
    working = Working(
        (
            f"d = √(EIRP·duty{factor} / 4πS)",
            f"EIRP {show.power(eirp_w)} (upper end of its interval)",
            f"duty {show.percent(duty)}, averaged over {exposure.AVERAGED_OVER[limit]}",
            f"S = {density:.3g} W/m² at {show.frequency(frequency_hz)}",
            f"d = {show.distance(distance)}, never under λ/2π",
            f"field there {show.field_strength(field_v_per_m(eirp_w, distance))} while on the air",
        ),
        (),
        exposure.SOURCES[limit] + ("; ground reflection by FCC OET-65 eq. 7" if ground != 1.0 else ""),
        "Guidance for the far field of one transmitter. Your licence and local rules decide. "
        "Never transmit without an antenna or a load; keep live antennas out of reach.",
    )
    if distance < 1.0:
        return Figure("clear distance", distance * 100.0, 0.0, "cm", working, digits=0)
    return Figure("clear distance", distance, 0.0, "m", working, digits=1)


def clear_distances(evidence: Evidence, full_dbm: float, gain_u_db: float) -> tuple[Clear, ...]:
    """By every limit that covers the frequency. The gain may be higher than thought: the upper end of its uncertainty is
    taken, since this keeps people clear."""
    near, question = evidence.home_end, evidence.question
    assert near is not None and question is not None
    eirp_w = watt_from_dbm(full_dbm + 1.645 * gain_u_db)
    out = []
    for limit in get_args(exposure.Limit):
        try:
            out.append(
                Clear(
                    limit,
                    _distance(eirp_w, near.duty, question.centre_hz, limit, GROUND),
                    _distance(eirp_w, near.duty, question.centre_hz, limit, 1.0),
                )
            )
        except ValueError:
            continue
    return tuple(out)


class Radiated(Frozen):
    """At full power, and how far people must stand away."""

    full_eirp: Figure
    clears: tuple[Clear, ...]
    """By every limit that covers the frequency."""
    clear: Figure | None
    """By the limit chosen."""


def radiated(evidence: Evidence, aims: Aims, gains: Mapping[str, GainEvidence]) -> Radiated | None:
    """Of the antenna in focus, whatever lies on the path; None without a question and home's power."""
    ends = without_path(evidence, focus(evidence, aims), gains, None)
    if ends is None:
        return None
    full, home = _full_eirp(ends.near, ends), ends.near
    clears = clear_distances(evidence, full.value, full.u)
    chosen = next((c for c in clears if c.limit == home.limit), None)
    clear = None if chosen is None else chosen.with_ground if home.ground_reflection else chosen.free_space
    return Radiated(full, clears, clear)


def _full_eirp(home: HomeEnd, ends: PlanInputs) -> Figure:
    """What is radiated without pads."""
    line = feed_loss(ends.drawer, home.placed)
    line_db = home.cable_loss_db + line.line_db
    power_w = ends.full_w
    full_dbm = dbm_from_watt(power_w) - line_db + ends.gain.value
    parts = (
        (f"gain of {ends.antenna_name}", ends.gain.u),
        ("transmitter", home.power_u_db),
        ("cable", home.cable_u_db),
        ("line", line.line_u_db),
    )
    return Figure(
        "EIRP at full power",
        full_dbm,
        math.hypot(*(u for _, u in parts)),
        "dBm",
        Working(
            (
                f"{show.power(power_w)} − {line_db:g} dB cable {show.plus(ends.gain.value, 1)} dBi",
                f"= {show.power(watt_from_dbm(full_dbm))}",
            ),
            tuple((words, f"{u:.2f} dB") for words, u in parts if u > 0.005),
            "sum in decibels",
            "Without pads, as the link will be used.",
        ),
    )


def metres(figure: Figure) -> float:
    return figure.value / 100.0 if figure.unit == "cm" else figure.value


CAUTIONED = ("levels", "field", "bench")
"""Rungs on which somebody may transmit."""


def caution(rung: str, clear: Figure | None) -> str:
    """What to mind before transmitting, on the rungs where somebody may; empty on the others."""
    if rung not in CAUTIONED:
        return ""
    distance = f"Stand {clear.short} clear of the antenna at full power. " if clear else "Keep clear of the antenna. "
    more = (
        "Never transmit without an antenna or a load."
        if rung != "field"
        else "Two people; mind tide, weather and masts near power lines."
    )
    return (
        f"{distance}Band, power and duty are set by your licence and local rules; this tool doesn’t know them. {more}"
    )
