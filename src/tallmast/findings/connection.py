"""From an antenna's own connector to what it is screwed onto: does every joint mate, what is lost, what does it carry."""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import TYPE_CHECKING

from tallmast.frozen import Frozen
from tallmast.notebook.records import Antenna, Connector, Question
from tallmast.units import show

from .figure import Check, Figure, Mark, Working

if TYPE_CHECKING:
    from .levels.pieces import InDrawer

WORSE: tuple[Mark, ...] = ("holds", "open", "disagrees", "fails")
"""Marks from the best to the worst."""


class Connection(Frozen):
    """A chain of connectors end to end: each joint, what all of it loses, and the least that it carries."""

    check: Check
    joints: tuple[Check, ...]
    loss: Figure | None
    """None where nothing lies between that takes anything."""
    rating_w: float | None

    @property
    def mark(self) -> Mark:
        return self.check.mark

    @property
    def text(self) -> str:
        return self.check.text


def end_words(end: Connector | None) -> str:
    """`N plug`, `SMA jack, reverse`."""
    if end is None:
        return "not noted"
    usual = {"plug": "pin", "jack": "socket"}
    return f"{end.family} {end.body}" + ("" if usual[end.body] == end.contact else ", reverse")


def mating(one: Connector, other: Connector) -> Check:
    """Whether two connectors mate, and what happens if they are tried all the same."""
    names = f"{one.family} {one.body} with {one.contact}, {other.family} {other.body} with {other.contact}"
    if one.family.strip().lower() != other.family.strip().lower():
        return Check("fails", f"{one.family} and {other.family} don't mate", why=f"{names}: different families.")
    if one.body == other.body:
        return Check(
            "fails", f"two {one.body}s don't mate", why=f"{names}: an adapter with two {_other(one.body)}s joins them."
        )
    if one.contact == other.contact == "socket":
        return Check(
            "fails",
            "screws on, connects nothing",
            why=f"{names}: two sockets and no pin. One of them is the reverse-polarity version of the family.",
        )
    if one.contact == other.contact == "pin":
        return Check(
            "fails",
            "two pins will break each other",
            why=f"{names}: don't screw them together. One of them is the reverse-polarity version of the family.",
        )
    if abs(one.impedance_ohm - other.impedance_ohm) > 1:
        return Check(
            "disagrees",
            f"{one.impedance_ohm:g} Ω onto {other.impedance_ohm:g} Ω",
            why=f"{names}: they mate in some families and spread the socket in others; either way the match suffers.",
        )
    return Check("holds", "connectors mate", why=f"{names}: body and contact fit.")


def _other(body: str) -> str:
    return "jack" if body == "plug" else "plug"


def _loss(between: list[InDrawer], power_w: float | None) -> Figure | None:
    """What all pieces take, as Levels has each at the question's frequency; a preamp takes nothing."""
    counted = [one for one in between if one.piece.type != "preamp"]
    if not counted:
        return None
    pieces = [one.piece for one in counted]
    value = sum(one.taken.loss_db for one in counted)
    u = math.sqrt(sum(one.taken.whole_u_db**2 for one in counted))
    rated = [piece for piece in pieces if piece.rating_w]
    least = min(rated, key=lambda piece: piece.rating_w or 0.0, default=None)
    lines = [f"{one.piece.name:20.20}  {one.taken.loss_db:.2f} dB, {one.taken.basis}" for one in counted]
    lines.append(f"together              {value:.2f} dB")
    if least is not None and least.rating_w:
        lines.append(f"carries {show.power(least.rating_w)} at most: {least.name}")
    if power_w is not None:
        lines.append(f"power to be used {show.power(power_w)}")
    working = Working(
        tuple(lines),
        tuple((one.piece.name, f"{one.taken.whole_u_db:.2f} dB") for one in counted if one.taken.whole_u_db),
        "losses in decibels add; uncertainties that are not linked add as squares",
        "Every adapter costs a little and is one more thing to come loose. It counts in both directions.",
    )
    return Figure("loss between antenna and its mate", value, u, "dB", working, digits=2)


def connect(
    antenna: Antenna, drawer: Mapping[str, InDrawer], question: Question, power_w: float | None = None
) -> Connection | None:
    """The chain from the antenna's connector through its pieces to the mate; None where an end is not noted.

    A joint that can't mate fails the whole. A piece beyond its frequency is in doubt, and so is one that carries less
    than the power to be used.
    """
    if antenna.connector is None or antenna.mate is None:
        return None
    known = [drawer[piece_id] for piece_id in antenna.through if piece_id in drawer]
    between = [one.piece for one in known]
    ends: list[tuple[str, Connector | None]] = [(antenna.name, antenna.connector)]
    joints: list[Check] = []
    for piece in between:
        joints.append(_joint(*ends[-1], piece.name, piece.first))
        ends.append((piece.name, piece.second))
    joints.append(_joint(*ends[-1], "what it is screwed onto", antenna.mate))
    for piece in between:
        if piece.top_hz is not None and piece.top_hz < question.band_high_hz:
            words = f"{piece.name} is for {show.frequency(piece.top_hz)} at most"
            joints.append(Check("disagrees", words, None, f"{words}; above that its loss and match are not known."))
        if piece.rating_w is not None and power_w is not None and power_w > piece.rating_w:
            words = f"{piece.name} carries {show.power(piece.rating_w)}, not {show.power(power_w)}"
            joints.append(Check("fails", words, None, f"{words}: it heats, and may burn."))
    worst = max(joints, key=lambda check: WORSE.index(check.mark))
    loss = _loss(known, power_w)
    rating = min((piece.rating_w for piece in between if piece.rating_w), default=None)
    if worst.mark == "holds":
        words = "connectors mate" if loss is None else f"connectors mate, {loss.text} lost"
        why = " ".join(joint.why for joint in joints)
        return Connection(Check("holds", words, loss, why), tuple(joints), loss, rating)
    return Connection(Check(worst.mark, worst.text, loss, worst.why), tuple(joints), loss, rating)


def _joint(name: str, one: Connector | None, other_name: str, other: Connector | None) -> Check:
    if one is None or other is None:
        blank = name if one is None else other_name
        return Check("open", f"connector of {blank} not noted", None, f"{name} to {other_name}: look before screwing.")
    found = mating(one, other)
    return Check(found.mark, found.text, None, f"{name} to {other_name}: {found.why}")
