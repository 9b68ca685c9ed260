"""Out and back: where the two ways differ, why, and which end to improve first."""

from __future__ import annotations

from tallmast.physics.decibels import dbm_from_watt
from tallmast.units import show

from ..figure import Check
from .budget import Ask
from .margin import Margin

ALIKE_DB = 1.0
"""Within this both ways are called alike."""


def both_ways_words(ask: Ask, margin: Margin) -> str:
    """`The way back has 4.0 dB less: −10.0 dB by the power sent, +6.0 dB by the receiver. It is the weaker one: …`; nothing where the far
    end's power or home's receiver is not noted."""
    far, back = ask.far, margin.back
    home, away = ask.takes_home, ask.takes_away
    if back is None or not far.power_w or home is None:
        return ""
    power = dbm_from_watt(far.power_w) - dbm_from_watt(ask.power_w)
    noise = away.by_noise_db - home.by_noise_db
    receiver = away.level_dbm - home.level_dbm - noise
    gap = back.value - margin.there.value
    if abs(gap) < ALIKE_DB:
        return "Both ways are alike within 1 dB: a better antenna or less cable lifts both, more power at one end only one."
    parts = [("the power sent", power), ("the receiver", receiver), ("noise", noise), ("the pads", ask.pad_db)]
    why = show.join([f"{show.plus(value, 1)} dB by {name}" for name, value in parts if abs(value) >= 0.1])
    weaker, sender, listener = ("back", far.name, "home") if gap < 0 else ("out", "home", far.name)
    if (home if gap < 0 else away).noise_rules:
        return (
            f"The way back has {show.decibel(abs(gap))} {'less' if gap < 0 else 'more'}: {why}. "
            f"The way {weaker} ends first, and noise at {listener} rules it: more power at {sender} lifts it, or a quieter place or a beam "
            f"turned away from the noise at {listener}; a better receiver there or more power at {listener} does nothing for it."
        )
    return (
        f"The way back has {show.decibel(abs(gap))} {'less' if gap < 0 else 'more'}: {why}. "
        f"The way {weaker} ends first: more power at {sender} or a better receiver at {listener} lifts it alone, "
        "an antenna or less cable lifts both alike, whichever end it is at."
    )


def noise_checks(ask: Ask) -> list[Check]:
    """An end at which noise rules, with what does and does not help there; and noise of which nothing can be told."""
    out = []
    ends = ((ask.takes_away, ask.far.name, "home"), (ask.takes_home, "home", ask.far.name))
    for there, name, _ in ends:
        if there is not None and there.trouble:
            text = f"the noise noted at {name} can’t be reckoned with"
            out.append(Check("open", text, None, there.trouble))
    for there, name, other in ends:
        if there is None or not there.noise_rules:
            continue
        text = f"noise at {name} takes {show.decibel(there.by_noise_db, 0)} of its sensitivity"
        why = (
            f"{show.upper_first(there.words)}. More power at {other}, a quieter place or a beam turned away from it help; "
            f"a preamp or more power at {name} does nothing for what {name} hears."
        )
        out.append(Check("open", text, None, why))
    return out
