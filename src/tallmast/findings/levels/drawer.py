"""Which pads of the drawer to take: nearest to a wanted attenuation, every one inside its rating, connectors mating."""

from __future__ import annotations

import heapq
import itertools
import math
from collections.abc import Iterator, Sequence

from tallmast.frozen import Frozen
from tallmast.notebook.records import Connector, Piece
from tallmast.physics.decibels import dbm_from_watt, power_ratio, watt_from_dbm
from tallmast.physics.field_strength import received_dbm
from tallmast.physics.propagation import free_space_loss_db, range_ratio
from tallmast.units import show

from ..connection import mating
from ..field.path import PathFit
from ..figure import Figure, Working
from ..rails import exponent_trouble
from .pieces import REDUCING, Drawer, PieceLoss, feed_loss, loss_of
from .plan import PlanInputs

MOST_PIECES = 4
"""A stack of more pads than this is a lever on a connector."""
SAME_DB = 1e-9


class Stacked(Frozen, eq=True):
    """One piece of a stack, from the transmitter on: its setting, whether turned round, what stays in it."""

    piece: Piece
    setting_db: float
    taken: PieceLoss
    turned: bool
    dissipated_w: float


class Stack(Frozen):
    """A way to make an attenuation."""

    laid: tuple[Stacked, ...]
    wanted_db: float

    @property
    def loss_db(self) -> float:
        return math.fsum(part.taken.loss_db for part in self.laid)

    @property
    def u_db(self) -> float:
        return math.hypot(*(part.taken.whole_u_db for part in self.laid)) if self.laid else 0.0

    @property
    def off_db(self) -> float:
        return self.loss_db - self.wanted_db

    @property
    def words(self) -> str:
        """`10 dB pad, then 6 dB pad turned round`."""
        if not self.laid:
            return "nothing"
        parts = []
        for part in self.laid:
            name = part.piece.name
            if part.piece.type == "step attenuator":
                name += f" set to {part.setting_db:g} dB"
            parts.append(name + (", turned round" if part.turned else ""))
        return "; ".join(parts)

    @property
    def unknown_joints(self) -> bool:
        """Whether some connector is not noted, so that mating can't be told."""
        ends = [c for part in self.laid for c in (part.piece.first, part.piece.second)]
        return len(self.laid) > 1 and any(c is None for c in ends)


def _mates(one: Connector | None, other: Connector | None) -> bool:
    return one is None or other is None or mating(one, other).mark == "holds"


def _ways_round(pieces: Sequence[Piece]) -> tuple[bool, ...] | None:
    """Which pieces to turn round so that all joints mate; None where no way does. A pad is the same both ways."""
    paths: list[tuple[tuple[bool, ...], Connector | None]] = [((), None)]
    for i, piece in enumerate(pieces):
        new: list[tuple[tuple[bool, ...], Connector | None]] = []
        for turned in (False, True):
            near, far = (piece.first, piece.second) if turned else (piece.second, piece.first)
            for path, end in paths:
                if (i == 0 or _mates(end, near)) and all(e != far for _, e in new):
                    new.append(((*path, turned), far))
        paths = new
        if not paths:
            return None
    return paths[0][0]


def _order(
    chosen: Sequence[tuple[Piece, float, PieceLoss]], power_w: float, duty: float
) -> tuple[tuple[Stacked, ...] | None, str]:
    """The first order in which every piece bears its share and all joints mate; None and why where there is none."""
    why = "connectors don’t mate"
    # The sturdiest first: that is nearly always it.
    for order in itertools.permutations(sorted(chosen, key=lambda c: -(c[0].rating_w or math.inf))):
        level, laid_w = power_w, []
        for _, _, taken in order:
            after = level * float(power_ratio(-taken.loss_db))
            laid_w.append(max(level - after, 0.0) * duty)
            level = after
        if any(w > (piece.rating_w or math.inf) for (piece, _, _), w in zip(order, laid_w, strict=True)):
            why = "a pad would be over its rating"
            continue
        turned = _ways_round([piece for piece, _, _ in order])
        if turned is not None:
            return tuple(
                Stacked(piece, setting, taken, way, w)
                for (piece, setting, taken), way, w in zip(order, turned, laid_w, strict=True)
            ), ""
    return None, why


Choice = tuple[tuple[Piece, float, PieceLoss], ...]


def _loss(chosen: Choice) -> float:
    return math.fsum(taken.loss_db for _, _, taken in chosen)


def _rank(chosen: Choice, wanted_db: float) -> tuple[float, int, int]:
    """How good a choice is: near first, then few pieces, then low settings."""
    return round(abs(_loss(chosen) - wanted_db), 9), len(chosen), round(sum(setting for _, setting, _ in chosen))


def _set(drawer: Drawer, boxes: Sequence[Piece], before: Choice, wanted_db: float) -> Iterator[Choice]:
    """A choice with step attenuators added at every setting, nearest to what is wanted first."""
    if not boxes:
        yield before
        return
    box, rest = boxes[0], boxes[1:]
    count = math.floor((box.largest_db or 0.0) / box.step_db + 1e-9) + 1
    settings = [(box, k * box.step_db, drawer.taken(box, k * box.step_db)) for k in range(count)]
    if rest:
        yield from heapq.merge(
            *(_set(drawer, rest, (*before, one), wanted_db) for one in settings), key=lambda c: _rank(c, wanted_db)
        )
    else:
        yield from sorted(((*before, one) for one in settings), key=lambda c: _rank(c, wanted_db))


def _candidates(drawer: Drawer, wanted_db: float) -> Iterator[Choice]:
    """Every choice of the drawer's pads, nearest first; made only as far as they are asked for."""
    usable = [
        p
        for p in drawer.pieces.values()
        if p.type in REDUCING
        and (p.low_hz is None or p.low_hz <= drawer.frequency_hz)
        and (p.top_hz is None or drawer.frequency_hz <= p.top_hz)
    ]
    known = {p.id: drawer.taken(p) for p in usable}
    each = []
    for count in range(min(MOST_PIECES, len(usable)) + 1):
        for pieces in itertools.combinations(usable, count):
            pads = tuple((p, 0.0, known[p.id]) for p in pieces if p.type == "pad")
            each.append(_set(drawer, [p for p in pieces if p.type != "pad"], pads, wanted_db))
    return heapq.merge(*each, key=lambda c: _rank(c, wanted_db))


def nearest(
    drawer: Drawer, wanted_db: float, power_w: float, duty: float = 1.0, at_least: bool = False, most: int = 3
) -> tuple[tuple[Stack, ...], str]:
    """The stacks nearest to a wanted attenuation that can be built, best first, and why nothing is, where nothing is.

    Of equals the one with fewest pieces. `at_least`: never less than wanted, as when an input is to be protected.
    `power_w` is what goes into the first piece.
    """
    out: list[Stack] = []
    why = ""
    for chosen in _candidates(drawer, wanted_db):
        if at_least and _loss(chosen) < wanted_db - SAME_DB:
            continue
        laid, trouble = _order(chosen, power_w, duty)
        if laid is None:
            why = why or trouble
            continue
        out.append(Stack(laid, wanted_db))
        if len(out) == most:
            break
    return tuple(out), "" if out else why or "nothing in the drawer takes that much"


def stack_figure(stack: Stack, power_w: float) -> Figure:
    """A stack as a number with its working."""
    lines = []
    for part in stack.laid:
        bears = f" of {show.power(part.piece.rating_w)}" if part.piece.rating_w else ""
        lines.append(
            f"{part.piece.name[:16]:<16} {part.taken.loss_db:6.2f} dB, takes {show.power(part.dissipated_w)}{bears}"
        )
    lines.append(f"together {show.decibel(stack.loss_db, 2)}, wanted {show.decibel(stack.wanted_db, 2)}")
    lines.append(f"{show.power(power_w)} goes in")
    meaning = "In this order from the transmitter: the sturdiest takes the power. Pads get hot: let them cool."
    if stack.unknown_joints:
        meaning += " Some connectors are not noted: see that they mate."
    return Figure(
        stack.words,
        stack.loss_db,
        stack.u_db,
        "dB",
        Working(
            tuple(lines),
            tuple((p.piece.name, f"{p.taken.whole_u_db:.2f} dB, {p.taken.basis}") for p in stack.laid),
            "every choice of the drawer’s pads, nearest first",
            meaning,
        ),
    )


class ForDistance(Frozen):
    """The attenuation that makes a link fail at a distance, for one exponent."""

    exponent: float
    named: str
    pad: Figure


ANCHOR_M = 100.0
"""To here the path is taken as free space where nothing was measured; beyond, it falls with the exponent."""


def pad_for_distance(
    fail_m: float,
    level_dbm: float | None,
    level_m: float,
    level_u_db: float,
    open_eirp_to_port_dbm: float,
    sensitivity_dbm: float,
    sensitivity_u_db: float,
    frequency_hz: float,
    exponents: Sequence[tuple[float, float, str]],
    by_noise: str = "",
) -> tuple[ForDistance, ...]:
    """The pad that leaves nothing over sensitivity at `fail_m`, for each (n, u, name).

    Anchored where it is known: at a measured level (`level_dbm` without pads at `level_m`), else in free space at
    100 m with `open_eirp_to_port_dbm` (power and both gains less lines and polarization). `level_u_db` is its uncertainty.
    """
    if level_dbm is None:
        level_m = ANCHOR_M
        level_dbm = open_eirp_to_port_dbm - float(free_space_loss_db(ANCHOR_M, frequency_hz))
        anchor = f"free space to {show.distance(ANCHOR_M)}"
    else:
        anchor = f"measured at {show.distance(level_m)}"
    out = []
    for n, u_n, named in exponents:
        lost = 10.0 * n * math.log10(fail_m / level_m)
        value = level_dbm - lost - sensitivity_dbm
        u = math.hypot(level_u_db, sensitivity_u_db, 10.0 * u_n * math.log10(fail_m / level_m))
        out.append(
            ForDistance(
                n,
                named,
                Figure(
                    f"pad to fail at {show.distance(fail_m)}",
                    value,
                    u,
                    "dB",
                    Working(
                        (
                            f"level {show.level(level_dbm)}, {anchor}",
                            f"to {show.distance(fail_m)}: {show.plus(-lost, 1)} dB with n = {n:.2f}",
                            f"needed there {show.level(sensitivity_dbm)}{f', by {by_noise}' if by_noise else ''}",
                            f"pad = {show.decibel(value)}",
                        ),
                        (
                            ("level", f"{level_u_db:.1f} dB"),
                            ("sensitivity", f"{sensitivity_u_db:.1f} dB"),
                            *(
                                [("exponent", f"{abs(10.0 * u_n * math.log10(fail_m / level_m)):.1f} dB")]
                                if u_n
                                else []
                            ),
                        ),
                        f"{named}; level falls with d^n",
                        f"One place strays by several decibels: expect it to fail between "
                        f"{show.distance(fail_m * range_ratio(-1.645 * u, n))} and {show.distance(fail_m * range_ratio(1.645 * u, n))}."
                        if value >= 0
                        else "It fails nearer than that with no pad at all.",
                    ),
                ),
            )
        )
    return tuple(out)


def pad_for_input(level_dbm: float, level_u_db: float, limit_dbm: float) -> Figure:
    """The attenuation that keeps an input under a limit even at the upper end of the level's interval; 0 at least."""
    upper = level_dbm + 1.645 * level_u_db
    value = max(upper - limit_dbm, 0.0)
    return Figure(
        "attenuation to protect the input",
        value,
        0.0,
        "dB",
        Working(
            (
                f"level {show.level(level_dbm)}, upper end {show.level(upper)}",
                f"limit {show.level(limit_dbm)}",
                f"needed {show.decibel(value)}",
            ),
            (),
            "the upper end of the level’s 90 % interval against the limit",
            "Put it in before the receiver is switched on."
            if value > 0
            else "The input bears it as it is, as far as the numbers go.",
        ),
        digits=1,
    )


PROTECT_U_DB = 1.5
"""Doubt of a level reckoned from EIRP and distance, or from a meter's field."""


def stacks_figure(
    made: Drawer, wanted_db: float, power_w: float, duty: float, at_least: bool = False, front: Figure | None = None
) -> Figure:
    """The nearest stack with its working, and the next best; `front` is what asked for it."""
    stacks, why = nearest(made, wanted_db, power_w, duty, at_least)
    if not stacks:
        lines = (f"wanted {show.decibel(wanted_db)} at {show.power(power_w)}", f"not possible: {why}")
        return Figure(
            "wanted, and not to be had",
            wanted_db,
            0.0,
            "dB",
            Working(lines, (), "", "Put more pads into the drawer, or use less power."),
        )
    best = stack_figure(stacks[0], power_w)
    others = tuple(f"or {s.words}: {show.decibel(s.loss_db, 2)}" for s in stacks[1:])
    lead = front.working.lines if front else ()
    return Figure(
        best.name,
        best.value,
        best.u,
        best.unit,
        Working((*lead, *best.working.lines, *others), best.working.parts, best.working.source, best.working.meaning),
    )


def fail_figure(ends: PlanInputs, fit: PathFit | None, fail_m: float, power_w: float | None) -> Figure:
    """The attenuation that makes the link fail at a distance, over several exponents, and what to take for it."""
    near, far, made = ends.near, ends.far, ends.drawer
    assert far is not None
    power = power_w or ends.full_w
    home, (away_db, _) = feed_loss(made, near.placed), loss_of(made, far)
    lost = ends.polarization.value if ends.polarization else 0.0
    budget = dbm_from_watt(power) - near.cable_loss_db - home.line_db + ends.gain.value - lost + far.gain_dbi - away_db
    exponents = [(2.0, 0.0, "free space"), (3.77, 0.0, "37.7 log d rule"), (4.0, 0.0, "plane earth")]
    if fit is not None and not exponent_trouble(fit.exponent):
        exponents.insert(0, (fit.exponent.value, fit.exponent.u, "measured in the field"))
    path = ends.path if ends.path is not None and ends.path.measured else None
    # As the Link has it: noise where the far end stands counts, where it stands over what its receiver takes.
    needs = ends.takes_away
    sensitivity = (needs.level_dbm, needs.u_db) if needs is not None else (far.sensitivity_dbm, far.sensitivity_u_db)
    rows = pad_for_distance(
        fail_m,
        budget - path.loss_db if path else None,
        path.distance_m if path else 0.0,
        path.u_db if path else 3.0,
        budget,
        *sensitivity,
        ends.frequency_hz,
        exponents,
        needs.words if needs is not None and needs.noise_rules else "",
    )
    best = rows[0]
    lines = tuple(f"{r.named[:22]:<22} n {r.exponent:.2f}: {r.pad.text}" for r in rows)
    stacks, why = nearest(made, max(best.pad.value, 0.0), power, near.duty)
    take = f"take {stacks[0].words}: {show.decibel(stacks[0].loss_db, 1)}" if stacks else f"from the drawer: {why}"
    return Figure(
        best.pad.name,
        best.pad.value,
        best.pad.u,
        "dB",
        Working(
            (*best.pad.working.lines, *lines, take),
            best.pad.working.parts,
            best.pad.working.source,
            best.pad.working.meaning,
        ),
    )


def protect_figure(
    made: Drawer, field_v_per_m: float, frequency_hz: float, gain_dbi: float, limit_dbm: float
) -> Figure:
    """What keeps an input under a limit when an antenna stands in a field: never less than is needed."""
    level = received_dbm(field_v_per_m, frequency_hz, gain_dbi)
    needed = pad_for_input(level, PROTECT_U_DB, limit_dbm)
    return stacks_figure(made, needed.value, watt_from_dbm(level), 1.0, at_least=True, front=needed)
