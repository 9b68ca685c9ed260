"""What a decibel costs: every option on the shelf and on the mast by what it adds at the wanted place, with price and mass, by end."""

from __future__ import annotations

import math

from tallmast.frozen import Frozen
from tallmast.notebook.records import Antenna, ListeningEnd
from tallmast.units import show

from ..figure import Figure, Working
from ..levels.pieces import Drawer, feed_loss, loss_of
from .budget import Ask
from .margin import Margin

HIGHER_M = 4.0
"""So much higher an antenna is tried."""
LEAST_DB = 0.3
"""What takes less is no option."""


class Worth(Frozen):
    """One option: what it would add to the margin at the place."""

    what: str
    end: ListeningEnd
    adds: Figure
    antenna: Antenna | None = None
    price: float | None = None
    mass_kg: float | None = None
    only: str = ""
    """What has to be minded with it."""

    @property
    def price_a_db(self) -> float | None:
        """Of each decibel; None where it adds none that can be told, or costs nothing that is noted."""
        low, _ = self.adds.interval
        return self.price / self.adds.value if self.price is not None and low > 0 else None


def _adds(what: str, value: float, u: float, lines: tuple[str, ...], source: str, degrees: float = math.inf) -> Figure:
    working = Working(
        lines, (("what is compared", show.decibel(u, 2)),), source, "The path is the same: its doubt cancels."
    )
    return Figure(f"{what}: adds", value, u, "dB", working, degrees)


def _antennas(ask: Ask, focus: Margin, margins: tuple[Margin, ...]) -> list[Worth]:
    """Every other antenna in its place: by the runs where both were run, else by their gains."""
    out = []
    at_far = ask.far.antenna_id
    for margin in margins:
        antenna = margin.antenna
        if antenna.id in (focus.antenna.id, at_far):
            continue
        told = ask.field.difference(antenna.id, focus.antenna.id)
        value = margin.figure.value - focus.figure.value
        if told is not None:
            lines = (f"runs: {told.text} over {focus.antenna.name}",)
            adds = _adds(antenna.name, told.value, told.u, lines, "the field runs, in turn", told.degrees)
        else:
            mine, theirs = (ask.gains[a.id].working_value() for a in (antenna, focus.antenna))
            lines = (f"gains: {mine.text} against {theirs.text}",)
            adds = _adds(antenna.name, value, math.hypot(mine.u, theirs.u), lines, "their gains and polarization")
        out.append(Worth(f"{antenna.name} instead", "home", adds, antenna, antenna.price, antenna.mass_kg))
    return out


def _on_the_mast(ask: Ask) -> list[Worth]:
    """What stands between radio and antenna at both ends, and the height."""
    drawer, out = Drawer(ask.evidence, ask.frequency_hz), []
    line = feed_loss(drawer, ask.near.placed)
    cable = ask.near.cable_loss_db + line.line_db
    if cable >= LEAST_DB:
        u = math.hypot(ask.near.cable_u_db, line.line_u_db)
        adds = _adds("home cable", cable, u, (f"its loss {show.decibel(cable)}",), "power and pads, as noted")
        out.append(Worth("the radio at the antenna, no cable", "home", adds))
        out += _other_cables(ask, drawer, cable, u)
    loss, u = loss_of(drawer, ask.far)
    if loss >= LEAST_DB:
        adds = _adds("far cable and pads", loss, u, (f"their loss {show.decibel(loss)}",), "the far end, as noted")
        out.append(Worth("nothing between radio and antenna", "away", adds))
    profile = ask.way.profile
    ends: tuple[tuple[ListeningEnd, str], ...] = (("home", "home_height_m"), ("away", "away_height_m"))
    for end, name in ends:
        if profile.over_db < LEAST_DB:
            continue
        height = getattr(profile, name) + HIGHER_M
        higher = profile.moved(**{name: height})
        value = profile.over_db - higher.over_db
        if value < LEAST_DB:
            continue
        lines = (
            f"the ground takes {show.decibel(profile.over_db)}",
            f"{show.distance(HIGHER_M)} higher {show.decibel(higher.over_db)}",
        )
        adds = _adds(f"{end} higher", value, max(0.5, 0.3 * value), lines, "Rec. ITU-R P.526-15 §4.5.3")
        only = "keep clear of power lines; raise it by local rules"
        out.append(Worth(f"{show.distance(HIGHER_M)} higher, {show.distance(height)} in all", end, adds, only=only))
    twice = _adds("twice the power", 10.0 * math.log10(2.0), 0.0, ("10·log₁₀ 2",), "both ends alike")
    out.append(Worth("twice the power", "home", twice, only="as far as your licence goes; the way back gains nothing"))
    return out


def _other_cables(ask: Ask, drawer: Drawer, now_db: float, now_u: float) -> list[Worth]:
    """Cables of the drawer that take less than what is on the mast."""
    placed = {one.piece_id for one in ask.near.placed}
    out = []
    for one in drawer.all():
        adds = now_db - one.taken.loss_db
        if one.piece.type != "cable" or one.piece.id in placed or adds < LEAST_DB:
            continue
        u = math.hypot(now_u, one.taken.whole_u_db)
        lines = (
            f"now {show.decibel(now_db)}",
            f"{one.piece.title} {show.decibel(one.taken.loss_db)}, {one.taken.basis}",
        )
        made = _adds(one.piece.title, adds, u, lines, "power and pads, and the drawer")
        out.append(Worth(f"{one.piece.title} for the home cable", "home", made, only="if it is long enough"))
    return out


def worth_of(ask: Ask, focus: Margin, margins: tuple[Margin, ...]) -> tuple[Worth, ...]:
    """Every option, the one that adds most first."""
    made = [*_antennas(ask, focus, margins), *_on_the_mast(ask)]
    return tuple(sorted(made, key=lambda one: -one.adds.value))


def dear_words(focus: Margin, found: tuple[Worth, ...]) -> str:
    """`Gull Collinear costs 36 more than Shed Yagi and loses 4.3 ± 0.9 dB.` of the one whose price is farthest off; nothing without two prices."""
    mine = focus.antenna.price
    priced = [w for w in found if w.antenna is not None and w.price is not None]
    if mine is None or not priced:
        return ""
    other = max(priced, key=lambda w: abs((w.price or 0.0) - mine))
    assert other.antenna is not None and other.price is not None
    if other.price == mine:
        return ""
    dear, cheap = (
        (other.antenna.name, focus.antenna.name) if other.price > mine else (focus.antenna.name, other.antenna.name)
    )
    value = other.adds.value if other.price > mine else -other.adds.value
    more = abs(other.price - mine)
    low, high = value - other.adds.half, value + other.adds.half
    if low <= 0.0 <= high:
        return f"{dear} costs {more:g} more than {cheap} and can’t be told from it within {show.decibel(max(abs(low), abs(high)))}."
    buys = show.plus_minus(abs(value), other.adds.half, "dB")
    return f"{dear} costs {more:g} more than {cheap} and {'adds' if value > 0 else 'loses'} {buys}."
