"""What a link is asked for, and its budget before the path: power, pads, cables, gains, polarization, where both ends look."""

from __future__ import annotations

import math
from collections.abc import Mapping
from functools import cached_property
from typing import TYPE_CHECKING

from tallmast.frozen import Frozen
from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import Antenna, FarEnd, HomeEnd, Place
from tallmast.physics.decibels import dbm_from_watt
from tallmast.units import show

from ..field import FieldFinding
from ..field.group import Group
from ..figure import named
from ..gain import GainEvidence
from ..levels.pieces import Drawer, feed_loss, loss_of
from ..noise_there import Takes, takes
from ..pattern import Mounted
from ..pointed import LEAST_DB, pointed
from ..polarization import loss_between
from ..way import Way
from .falls import Falls

if TYPE_CHECKING:
    from uncertainties import UFloat

ASSUMED_SCATTER_DB = 6.0
"""Place-to-place scatter taken where no field run has shown it (Rec. ITU-R P.1546 gives 5 to 8 dB over land)."""

LEAST_TAKEN_DB = 0.5
"""So much the ground takes before it is spoken of."""
RECKONED = ("free space only", "over the ground", "over level ground")
"""What a margin goes by where nothing was run."""
PAD_U_DB = 0.2
"""Of a pad that is noted of a run and stands nowhere in the chain."""


class Ask(Frozen):
    """What a margin is asked for: the two ends, what was found between them, and power, pads and distance."""

    evidence: Evidence
    near: HomeEnd
    far: FarEnd
    gains: dict[str, GainEvidence]
    group: Group | None
    field: FieldFinding
    way: Way
    power_w: float
    pad_db: float
    highest_m: float
    """Of the heights at home that are tried."""
    mounted: Mapping[str, Mounted]
    """Every antenna as it stands, by id."""
    toward_deg: float | None
    """Bearing of the place to be reached from home."""

    @property
    def distance_m(self) -> float:
        return self.way.distance_m

    @cached_property
    def measured(self) -> Falls:
        return Falls(self.way, self.group.fit if self.group is not None else None, self.highest_m)

    @cached_property
    def reckoned(self) -> Falls:
        return Falls(self.way, None, self.highest_m)

    @cached_property
    def takes_away(self) -> Takes:
        """The weakest signal that the far end takes at the place."""
        found = takes(self.evidence, self.far, self.way.profile.place, self.frequency_hz)
        assert found is not None  # a far end has a sensitivity
        return found

    @cached_property
    def takes_home(self) -> Takes | None:
        """The same of home; None where its receiver is not noted."""
        return takes(self.evidence, self.near, self.evidence.home, self.frequency_hz)

    def noisier_db(self, place: Place | None) -> float:
        """So much more the far end asks for at another place than at that to be reached."""
        there = takes(self.evidence, self.far, place, self.frequency_hz)
        return there.level_dbm - self.takes_away.level_dbm if there is not None else 0.0

    @property
    def frequency_hz(self) -> float:
        assert self.evidence.question is not None
        return self.evidence.question.centre_hz


def fixed_budget(ask: Ask, antenna: Antenna, power_w: float, pad_db: float) -> tuple[UFloat, list[str]]:
    """Level before the path, with named uncertainties: power − pad − cable + both gains − polarization − pointing."""
    near, far, gain = ask.near, ask.far, ask.gains[antenna.id].working_value()
    polarization = loss_between(antenna.polarization, antenna.axial_ratio_db, far.polarization, far.axial_ratio_db)
    drawer = Drawer(ask.evidence, ask.frequency_hz)
    home = feed_loss(drawer, near.placed)
    home_db, (away_db, away_u) = near.cable_loss_db + home.line_db, loss_of(drawer, far)
    away = pointed(ask.way, ask.toward_deg, ask.mounted.get(far.antenna_id), "away")
    looks = [
        (n, *one) for n, one in ((antenna.name, pointed_db(ask, antenna)), (far.name, away)) if abs(one[0]) >= LEAST_DB
    ]
    total = (
        named(dbm_from_watt(power_w), near.power_u_db, "transmitter")
        - named(pad_db, pads_u_db(near, drawer, pad_db), "pad")
        - named(home_db, math.hypot(near.cable_u_db, home.line_u_db), "home cable")
        + named(gain.value, gain.u, f"gain of {antenna.name}")
        + named(far.gain_dbi, far.gain_u_db, f"gain of {far.name}")
        - named(away_db, away_u, "far cable and pads")
        - named(polarization.value, polarization.u, "polarization")
    )
    for name, level, u in looks:
        total = total + named(level, u, f"where {name} looks")
    lines = [
        f"transmitter   {show.fixed(dbm_from_watt(power_w), 1)} dBm",
        *([f"pads          {show.fixed(-pad_db, 1)}"] if pad_db else []),
        f"home cable    {show.fixed(-home_db, 1)}",
        f"{antenna.name[:13]:<13} {show.plus(gain.value, 1)} dBi",
        f"polarization  {show.fixed(-polarization.value, 1)}",
        f"{far.name[:13]:<13} {show.plus(far.gain_dbi, 1)} dBi",
        *([f"far cable     {show.fixed(-away_db, 1)}"] if away_db else []),
        *(f"pointing      {show.fixed(level, 1)} dB, {name}" for name, level, _ in looks),
    ]
    return total, lines


def pointed_db(ask: Ask, antenna: Antenna) -> tuple[float, float]:
    """(what an antenna at home gives toward the place against its peak, u) dB."""
    return pointed(ask.way, ask.toward_deg, ask.mounted.get(antenna.id), "home")


def pads_u_db(near: HomeEnd, drawer: Drawer, pad_db: float) -> float:
    """Standard uncertainty of the pads in the chain: each one's tolerance as a rectangle, or as it was measured."""
    if not pad_db:
        return 0.0
    known = [pad.tolerance_db / math.sqrt(3.0) for pad in near.pads]
    placed = feed_loss(drawer, near.placed).pad_u_db
    return math.hypot(*known, placed) if known or placed else PAD_U_DB
