"""What two antennas lose because their waves turn differently, from what is known of both."""

from __future__ import annotations

from tallmast.notebook.records import Polarization
from tallmast.physics import polarization
from tallmast.units import show

from .figure import Figure, Working

TILTS: dict[str, float] = {"vertical": 90.0, "horizontal": 0.0, "slant": 45.0}
USUAL_CIRCULAR_AXIAL_RATIO_DB = 3.0
"""Taken for a circular antenna whose axial ratio is not known: the usual quality bar."""
TILT_U_DEG = 7.0
"""How well two linear antennas are lined up by eye."""

SOURCE = "Stutzman, Polarization in Electromagnetic Systems, §4.2"


def _axial(kind: Polarization, axial_ratio_db: float | None) -> float:
    if kind in TILTS:
        return polarization.LINEAR_AXIAL_RATIO_DB
    return USUAL_CIRCULAR_AXIAL_RATIO_DB if axial_ratio_db is None else axial_ratio_db


def loss_between(
    one: Polarization, one_axial_ratio_db: float | None, other: Polarization, other_axial_ratio_db: float | None
) -> Figure:
    """Polarization loss between two antennas, dB, with the uncertainty that unknown tilts leave.

    Crossed linear antennas are given 20 dB, not the textbook's infinity; an unknown type gives 1.5 ± 1.5.
    """
    name = "polarization loss"
    if "unknown" in (one, other):
        working = Working(("the polarization of one end is not known",), (), SOURCE, "Note how each antenna is held.")
        return Figure(name, 1.5, 1.0, "dB", working)
    a, b = _axial(one, one_axial_ratio_db), _axial(other, other_axial_ratio_db)
    right_a, right_b = one != "left circular", other != "left circular"
    words = f"{one} to {other}"
    if one in TILTS and other in TILTS:
        between = abs(TILTS[one] - TILTS[other])
        loss = polarization.polarization_loss_db(a, True, b, True, between)
        if loss > polarization.CROSSED_LINEAR_FLOOR_DB:
            working = Working(
                (f"{words}: crossed", "textbook: no power at all"),
                (),
                "outdoors, crossed linear antennas lose 15 to 25 dB",
                "Turn one of them by 90°.",
            )
            return Figure(name, polarization.CROSSED_LINEAR_FLOOR_DB, 3.0, "dB", working)
        u = abs(loss - polarization.polarization_loss_db(a, True, b, True, between + TILT_U_DEG))
        working = Working((words, "cos² of the angle between them"), (("lined up by eye", f"{u:.2f} dB"),), SOURCE)
        return Figure(name, loss, u, "dB", working)
    # The tilts of the ellipses are not known: the power is averaged over the turn.
    value, u, low, high = polarization.loss_over_tilt_db(a, right_a, b, right_b)
    u = max(u, 0.05)
    shown = [
        f"{_axial(kind, ar):g} dB"
        for kind, ar in ((one, one_axial_ratio_db), (other, other_axial_ratio_db))
        if kind not in TILTS
    ]
    working = Working(
        (
            words,
            f"axial ratio {show.join(shown)}",
            f"mean power over the turn {show.decibel(value)}",
            f"nine in ten tilts {show.decibel(low)} to {show.decibel(high)}",
        ),
        (("tilt of the ellipse", f"{u:.2f} dB"),),
        SOURCE,
        "Linear to circular loses 3 dB; opposite circulars nearly everything.",
    )
    beyond = low >= polarization.APART_AT_MOST_DB
    return Figure(
        name,
        value,
        u,
        "dB",
        working,
        low=low if beyond else min(low, value - 0.08),
        high=max(high, value + 0.08),
        bound="at least" if beyond else "",
    )
