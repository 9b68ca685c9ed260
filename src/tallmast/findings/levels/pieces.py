"""What a piece of the drawer takes from a level at a frequency, and how well that is known."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence

import numpy as np

from tallmast.frozen import Frozen
from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import At, PadCheck, Piece, Placed, Station
from tallmast.physics.field_strength import gain_from_table
from tallmast.units import show

from ..figure import Figure, Working
from .verify import Verified, verify

BEYOND_OCTAVES = 1.0
"""How far from the nearest frequency measured a correction still counts; farther off the lid's value does."""


class PieceLoss(Frozen, eq=True):
    """`loss_db` (negative: it adds), its standard uncertainty, the half-width of a rectangle beside it, and whence."""

    loss_db: float
    u_db: float
    rectangle_db: float
    basis: str

    @property
    def whole_u_db(self) -> float:
        """Both uncertainties as one standard uncertainty (a rectangle counts its half-width/√3: JCGM 100 §4.3.7)."""
        return math.hypot(self.u_db, self.rectangle_db / math.sqrt(3.0))


def cable_loss_per_m(curve: Sequence[At], frequency_hz: float) -> tuple[float, float]:
    """(dB, u dB) a metre: a√f + bf through the points noted (least squares), a√f through one.

    Skin effect goes with √f, the dielectric with f (Pozar, Microwave Engineering, §2.7). Neither part is below zero.
    """
    f = np.array([point.frequency_hz for point in curve])
    loss = np.array([point.loss_db for point in curve])
    u = max(math.sqrt(float(np.mean([point.u_db**2 for point in curve]))), 1e-6)
    root, linear = np.sqrt(f / 1e6), f / 1e6
    x = frequency_hz / 1e6
    if len(curve) > 1:
        (a, b), *_ = np.linalg.lstsq(np.stack((root, linear), axis=1), loss, rcond=None)
        if a >= 0 and b >= 0:
            return float(a * math.sqrt(x) + b * x), u
    a = float(root @ loss / (root @ root))
    return max(a, 0.0) * math.sqrt(x), u


def _marked(piece: Piece, frequency_hz: float, setting_db: float) -> PieceLoss:
    if piece.type == "cable" and piece.curve and piece.length_m:
        loss, u = cable_loss_per_m(piece.curve, frequency_hz)
        return PieceLoss(
            piece.loss_db + loss * piece.length_m,
            math.hypot(u * piece.length_m, piece.loss_u_db),
            piece.tolerance_db,
            "by its curve",
        )
    if piece.type == "preamp":
        return PieceLoss(-piece.gain_db, piece.loss_u_db, piece.tolerance_db, "as marked")
    beyond = (piece.low_hz is not None and frequency_hz < piece.low_hz) or (
        piece.top_hz is not None and frequency_hz > piece.top_hz
    )
    if piece.type == "filter" and beyond:
        return PieceLoss(
            piece.loss_db + piece.stop_db, max(piece.loss_u_db, 3.0), piece.tolerance_db, "beyond its band"
        )
    return PieceLoss(piece.loss_db + setting_db, piece.loss_u_db, piece.tolerance_db, "as marked")


def taken(piece: Piece, frequency_hz: float, setting_db: float = 0.0, verified: Sequence[Verified] = ()) -> PieceLoss:
    """What a piece takes: by what was measured of it near the frequency, else by its curve, else by its lid."""
    points = [(p.frequency_hz, p.loss_db, p.u_db) for p in piece.measured]
    points += [(v.check.frequency_hz, v.loss.value, v.loss.u) for v in verified]
    near = [p for p in points if abs(math.log2(p[0] / frequency_hz)) <= BEYOND_OCTAVES]
    if piece.type == "preamp" or not near:
        return _marked(piece, frequency_hz, setting_db)
    # Of several at one frequency the last counts.
    table = dict(sorted({f: (loss, u) for f, loss, u in points}.items()))
    f = np.array(list(table))
    values, uncertainties = np.array(list(table.values())).T
    loss, u = gain_from_table(frequency_hz, f, values, uncertainties)
    return PieceLoss(float(loss) + setting_db, float(u), 0.0, "measured")


def _verified(evidence: Evidence) -> dict[str, list[Verified]]:
    """By the id of a piece, what each check of it found."""
    pieces = {piece.id: piece for piece in evidence.all(Piece)}
    out: dict[str, list[Verified]] = {}
    for check in evidence.all(PadCheck):
        if check.piece_id in pieces:
            found = verify(check, evidence.series(check.series_id), pieces[check.piece_id])
            out.setdefault(check.piece_id, []).append(found)
    return out


class InDrawer(Frozen):
    """A piece as it is at the question's frequency, and the newest check of it."""

    piece: Piece
    taken: PieceLoss
    checks: tuple[Verified, ...] = ()
    """Every time it was measured by substitution: its correction table."""

    @property
    def verified(self) -> Verified | None:
        """The newest check."""
        return self.checks[-1] if self.checks else None

    @property
    def words(self) -> str:
        """What it takes, or gains."""
        return f"{'gains ' if self.taken.loss_db < 0 else ''}{self.figure.text}"

    @property
    def figure(self) -> Figure:
        """What it takes, measured or as its lid says."""
        t, p = self.taken, self.piece
        front = "gains" if t.loss_db < 0 else "takes"
        uncertainty = [("standard uncertainty", t.u_db), ("tolerance, a rectangle", t.rectangle_db / math.sqrt(3))]
        working = Working(
            (
                f"{front} {show.decibel(abs(t.loss_db), 2)}, {t.basis}",
                *([f"{show.length(p.length_m)} of cable"] if p.length_m else []),
                *(
                    f"{show.frequency(v.check.frequency_hz):<12} {v.loss.text}"
                    for v in sorted(self.checks, key=lambda v: v.check.frequency_hz)
                ),
                *([f"noise figure {show.decibel(p.noise_figure_db)}"] if p.noise_figure_db is not None else []),
            ),
            tuple((words, f"{u:.2f} dB") for words, u in uncertainty if u > 0),
            self.verified.loss.working.source if self.verified and t.basis == "measured" else "as noted",
            self.verified.loss.working.meaning if self.verified else "Measure it by substitution to know it better.",
        )
        return Figure(f"{p.name} {front}", abs(t.loss_db), t.whole_u_db, "dB", working, digits=2)


class Drawer:
    """The pieces of a notebook with the checks of each, at one frequency."""

    def __init__(self, evidence: Evidence, frequency_hz: float) -> None:
        self.frequency_hz = frequency_hz
        self.pieces: Mapping[str, Piece] = {piece.id: piece for piece in evidence.all(Piece)}
        self.verified = evidence.once("pads verified", _verified)

    def taken(self, piece: Piece, setting_db: float = 0.0, frequency_hz: float | None = None) -> PieceLoss:
        return taken(piece, frequency_hz or self.frequency_hz, setting_db, self.verified.get(piece.id, ()))

    def all(self) -> tuple[InDrawer, ...]:
        """Every piece as it is at the frequency."""
        checks = {piece_id: tuple(found) for piece_id, found in self.verified.items()}
        return tuple(InDrawer(p, self.taken(p), checks.get(p.id, ())) for p in self.pieces.values())

    def placed(self, placed: Sequence[Placed]) -> list[tuple[Piece, float]]:
        """Pieces with their settings, those that are still in the drawer."""
        return [(self.pieces[p.piece_id], p.setting_db) for p in placed if p.piece_id in self.pieces]


REDUCING = ("pad", "step attenuator")
"""Kinds of piece that are there for a test and gone in the end."""


class FeedLoss(Frozen, eq=True):
    """What lies between a radio and its antenna, in sum: pads of the drawer, and all that stays."""

    pad_db: float = 0.0
    pad_u_db: float = 0.0
    line_db: float = 0.0
    line_u_db: float = 0.0


def loss_of(drawer: Drawer, station: Station) -> tuple[float, float]:
    """(dB, standard uncertainty) of everything between a station's radio and its antenna, pads among it."""
    placed = feed_loss(drawer, station.placed)
    pads_u = (pad.tolerance_db / math.sqrt(3.0) for pad in station.pads)
    return (
        station.cable_loss_db + placed.line_db + placed.pad_db + station.pad_db,
        math.hypot(station.cable_u_db, placed.line_u_db, placed.pad_u_db, *pads_u),
    )


def feed_loss(drawer: Drawer, placed: Sequence[Placed]) -> FeedLoss:
    """The sums of a chain's pieces from the drawer; preamps are in the way of neither transmitter nor pad."""
    pads: list[PieceLoss] = []
    line: list[PieceLoss] = []
    for piece, setting in drawer.placed(placed):
        if piece.type != "preamp":
            (pads if piece.type in REDUCING else line).append(drawer.taken(piece, setting))
    return FeedLoss(
        sum(t.loss_db for t in pads),
        math.hypot(*(t.whole_u_db for t in pads)) if pads else 0.0,
        sum(t.loss_db for t in line),
        math.hypot(*(t.whole_u_db for t in line)) if line else 0.0,
    )
