"""What a cut is read from, whatever it came from: a file, a turn on the spot, a flight round it."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from typing import TYPE_CHECKING, Literal

import numpy as np
from numpy.typing import ArrayLike

from tallmast.frozen import Frozen
from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import Antenna, Cut, Record, Turn, TurnedBy
from tallmast.physics.decibels import Floats
from tallmast.units.shown import SCALES

from .turntable import settled

if TYPE_CHECKING:
    from ..levels.display import DisplayFinding

Way = Literal["cut", "turn", "flight"]
MOST_DB = 1000.0
"""Nothing is so strong or so weak: what is written larger is a slip, or a broken file, and must not overflow."""
COARSE_DEG = 30.0
"""From wider steps than this no beam is read: what lies between two of them was not seen."""
SITE_U_DB: dict[TurnedBy, float] = {"person": 2.0, "mast": 1.3, "turntable": 0.6}
"""Standard uncertainty of a level in one direction outdoors, where only few directions were read: what is reflected
about there, and a body, changes with the turn. Assumed; of many directions their own scatter says it."""
PROBE_U_DB = 0.5
"""Of one reading while a probe is turned about the line to it: nothing about there changes much."""
REFLECTED_DB: dict[TurnedBy, float] = {"person": -21.0, "mast": -21.0, "turntable": -25.0}
"""What is reflected about an ordinary yard, against the peak: weaker directions are filled up by it, or emptied."""
AIM_U_DEG: dict[TurnedBy, float] = {"person": 7.0, "mast": 3.0, "turntable": 0.5}
"""How well whoever turns it knows where it looks."""


class Reference(Frozen):
    """Level of an antenna that was put in the place of the one that was cut."""

    antenna: Antenna
    level_db: float
    u_db: float


FAR_APART_DEG = 45.0
"""Directions that lie so far apart share little of what the ground adds."""
STEEPEST_DEG = 80.0
"""An upright probe hears next to nothing from right over or under it: nearer to that nothing is told."""


class ProbeDoubt(Frozen, eq=True):
    """What is not known of the probe that was flown up and down before an antenna: an upright one loses 20·log₁₀(cos ε) at an
    elevation ε (a short dipole: Balanis, Antenna Theory, §4.2), and as much more as it leans."""

    share: float
    """Standard uncertainty of how much of that loss its own pattern has; 0: it was taken out."""
    lean_deg: float
    """Standard uncertainty of how upright it hung; 0: its attitude was logged."""

    def u_db(self, angle_deg: Floats, other_deg: float) -> Floats:
        """Of the difference of two elevations [n], dB: both are the same probe's."""

        def at(angle: ArrayLike) -> tuple[Floats, Floats]:
            up = np.minimum(np.abs((np.asarray(angle, dtype=float) + 90.0) % 180.0 - 90.0), STEEPEST_DEG)
            signed = np.sign(np.sin(np.radians(angle))) * up
            steep = 20.0 / math.log(10.0) * np.tan(np.radians(signed)) * math.radians(1.0)
            return -20.0 * np.log10(np.cos(np.radians(up))), steep

        (loss, steep), (loss_other, steep_other) = at(angle_deg), at(other_deg)
        return np.asarray(np.hypot(self.share * (loss - loss_other), self.lean_deg * (steep - steep_other)))


class Samples(Frozen):
    """Levels by angle from the antenna's own front, both [n]."""

    record: Record
    """What is opened to see where it came from."""
    antenna: Antenna
    state_id: str
    plane: str
    way: Way
    angle_deg: Floats
    level_db: Floats
    level_u_db: float
    """Standard uncertainty of a level as it was stated, or is assumed."""
    absolute: bool = False
    """Levels as received, to be compared with those of the same session."""
    session: str = ""
    source: str = ""
    held: str = ""
    """Covered, or otherwise different."""
    crossed: bool = False
    """Read with the far end crossed: what it sends the wrong way round, and not its pattern."""
    alike: float = 0.0
    """Lag-one correlation of neighbours."""
    angle_u_deg: float = 0.0
    """Standard uncertainty of the zero of its angles."""
    slow_u_db: float = 0.0
    """Standard uncertainty of a level that neighbours share and other directions do not, so that no averaging takes it away."""
    far_u_db: float = 0.0
    """Standard uncertainty of a level that only directions near by share: a ray by the ground that was the same in every pass."""
    front_u_deg: float = 0.0
    """Standard uncertainty of where its front looked, against the bearings by which it was flown."""
    probe: ProbeDoubt | None = None
    """What the probe's own pattern leaves open, where that changes over the angles."""
    blocked: tuple[str, ...] = ()
    """What was in the way in each direction; empty words: nothing."""
    reflected_db: float = -math.inf
    """What is reflected about there, against the peak."""
    lost_deg: tuple[float, ...] = ()
    """Where nothing was heard."""
    reference: Reference | None = None
    at_elevation_deg: float | None = None
    """Of a turn that was flown: how high."""
    front_bearing_deg: float | None = None
    """Where its front looked, where that is known with them."""

    def between_u_db(self, angle_deg: ArrayLike, other_deg: float) -> Floats:
        """Standard uncertainty, dB, of the difference of two directions [n] that they do not share, beyond scatter: none of one and the
        same."""
        angle = np.asarray(angle_deg, dtype=float)
        apart = np.abs((angle - other_deg + 180.0) % 360.0 - 180.0)
        far = self.far_u_db * np.sqrt(2.0 * (1.0 - np.exp(-((apart / FAR_APART_DEG) ** 2))))
        own = self.probe.u_db(angle, other_deg) if self.probe is not None else 0.0
        return np.hypot(far, own)

    @property
    def grown(self) -> float:
        """By how much likeness makes the scatter of a mean larger."""
        return math.sqrt((1.0 + self.alike) / (1.0 - self.alike))


def of_cut(evidence: Evidence, cut: Cut, antenna: Antenna) -> Samples:
    series = evidence.series(cut.series_id)
    angle, level = np.asarray(series["angle_deg"]), np.clip(series["level_db"], -MOST_DB, MOST_DB)
    reference = None
    if "minute" in series and "way" in series:
        turned = settled(angle, level, series["minute"], series["way"])
        angle, level = turned.angle_deg, turned.level_db
        other = evidence.antenna(cut.reference_id)
        if other is not None and turned.reference_db is not None:
            reference = Reference(other, turned.reference_db, turned.reference_u_db)
    return Samples(
        record=cut,
        antenna=antenna,
        state_id=cut.state_id,
        plane=cut.plane,
        way="cut",
        angle_deg=angle - cut.boresight_deg,
        level_db=level,
        level_u_db=cut.level_u_db,
        absolute=cut.absolute,
        session=cut.session,
        source=cut.source,
        crossed=cut.component == "cross-polar",
        reference=reference,
    )


def from_front(turn: Turn) -> Callable[[float], float]:
    """How a direction as it was noted turns into one from its front; the angle of a probe stays as it is."""
    if turn.noted_as == "far end" or turn.plane == "polarization":
        return lambda noted: noted % 360.0
    far = turn.far_bearing_deg or 0.0
    return lambda noted: (far - noted) % 360.0


def blocked(turn: Turn, noted_deg: float) -> str:
    """What stood in the way in a direction as noted; empty: nothing."""
    return next((s.name or "something in the way" for s in turn.in_the_way if s.holds(noted_deg)), "")


class OwnTurn(Frozen):
    """A turn on a scale of its own: nobody stepped that display, so it tells no decibels."""

    turn: Turn
    antenna: Antenna
    unit: str
    more_is_better: bool
    angle_deg: Floats
    value: Floats
    blocked: tuple[str, ...]
    lost_deg: tuple[float, ...]
    """Where nothing was heard."""

    @property
    def best(self) -> int:
        return int(np.argmax(self.value if self.more_is_better else -self.value))

    @property
    def worst(self) -> int:
        return int(np.argmin(self.value if self.more_is_better else -self.value))


def of_turn(turn: Turn, antenna: Antenna, displays: Mapping[str, DisplayFinding]) -> Samples | OwnTurn:
    """A turn in decibels, where it was read in dBm or on a display that was stepped; else on its own scale.

    A direction in which something was in the way is kept: it is what is had there. One in which nothing was heard is where
    it was lost, and no level.
    """
    angle_of = from_front(turn)
    curve = displays[turn.receiver].curve if turn.receiver in displays else None
    in_db = turn.read_on == "level in dBm" or curve is not None
    angle, value, own, lost, ways = [], [], [], [], []
    for heard in turn.readings:
        at = angle_of(heard.at_deg)
        told = heard.values
        if curve is not None and turn.read_on != "level in dBm":
            read = [curve.read(v) for v in heard.values]
            told = [r.level.value for r in read if r.state == "told"]
            own += [r.own_u_db for r in read if r.state == "told"]
        if not told:
            lost.append(at)
            continue
        angle.append(at)
        value.append(float(np.mean(told)))
        ways.append(blocked(turn, heard.at_deg))
    if not in_db:
        scale = SCALES[turn.read_on]
        return OwnTurn(
            turn, antenna, scale.unit, scale.more_is_better, np.array(angle), np.array(value), tuple(ways), tuple(lost)
        )
    site = PROBE_U_DB if turn.plane == "polarization" else SITE_U_DB[turn.turned_by]
    u = math.hypot(site, float(np.mean(own)) if own else 0.0)
    return Samples(
        record=turn,
        antenna=antenna,
        state_id=turn.state_id,
        plane=turn.plane,
        way="turn",
        angle_deg=np.array(angle),
        level_db=np.array(value),
        level_u_db=u,
        absolute=bool(turn.session),
        session=turn.session,
        held=turn.held,
        angle_u_deg=AIM_U_DEG[turn.turned_by],
        reflected_db=REFLECTED_DB[turn.turned_by],
        lost_deg=tuple(lost),
        blocked=tuple(ways),
    )
