"""Out and back: where the two ways differ, why, and which end to improve first."""

from __future__ import annotations

from tallmast.physics.decibels import dbm_from_watt
from tallmast.units import show

from .margin import Ask, Margin

ALIKE_DB = 1.0
"""Within this both ways are called alike."""


def both_ways_words(ask: Ask, margin: Margin) -> str:
    """`The way back has 4.0 dB less: −10.0 dB by the power sent, +6.0 dB by the receiver. It is the weaker one: …`; nothing where the far
    end's power or home's receiver is not noted."""
    near, far, back = ask.near, ask.far, margin.back
    if back is None or not far.power_w or near.sensitivity_dbm is None:
        return ""
    power = dbm_from_watt(far.power_w) - dbm_from_watt(ask.power_w)
    receiver = far.sensitivity_dbm - near.sensitivity_dbm
    gap = back.value - margin.figure.value
    if abs(gap) < ALIKE_DB:
        return "Both ways are alike within 1 dB: a better antenna or less cable lifts both, more power at one end only one."
    parts = [("the power sent", power), ("the receiver", receiver), ("the pads", ask.pad_db)]
    why = show.join([f"{show.plus(value, 1)} dB by {name}" for name, value in parts if abs(value) >= 0.1])
    weaker, sender, listener = ("back", far.name, "home") if gap < 0 else ("out", "home", far.name)
    return (
        f"The way back has {show.decibel(abs(gap))} {'less' if gap < 0 else 'more'}: {why}. "
        f"The way {weaker} ends first: more power at {sender} or a better receiver at {listener} lifts it alone, "
        "an antenna or less cable lifts both alike, whichever end it is at."
    )
