"""What is believed of a day before anything was noted on it. Standard deviations in dB unless said; medians and the standard
deviation of the logarithm of what is learned on the day.

None of these decides a comparison that was measured well; `./run truth` holds them on worlds that do not share them.
"""

from __future__ import annotations

from tallmast.frozen import Frozen


class Learned(Frozen):
    """A scale that the day itself tells: log-normal."""

    median: float
    log_sd: float


ANYTHING_DB = 30.0
"""Of a level or a threshold that nobody knows: wide but proper, since odds between models need that."""
TYPICAL_DBM = -80.0
"""A level on a field test, where one is read in dBm."""

EFFECT_DB = 5.0
"""Of a level of a factor, so 7 dB for a difference: antennas that people compare."""
EFFECTS_DB = {
    "battery": 3.0, "weather": 3.0, "listener": 3.0, "day": 5.0, "mode": 8.0, "channel": 6.0, "path": 8.0, "place": 10.0,
    "manner": 10.0,
}  # fmt: skip
"""Of others than antennas: the same path in other weather, or heard by somebody else, is nearly the same; another mode or another
place to send from is not."""
INTERACTION_DB = 4.0
"""Of what is compared with a mode, a pose, a band, the other end's antenna: aligned or crossed is more than this, most are less."""
LEG_DB = 2.0
"""Of an antenna on the way out, and back, about both: it looks the other way, and is carried otherwise."""
DRIFT_DB = 2.0
"""From the first run to the last."""
STEP_DB = 0.3
"""Of a known step of power or pads."""

RUN = Learned(0.7, 0.7)
"""Run to run: connectors, hands, battery."""
BREAKS = Learned(2.0, 1.0)
"""The same of where something breaks for good on a way that was gone again: nobody goes quite the same one."""
MEETS = Learned(2.0, 0.7)
"""Each antenna meets each place in its own way: its pattern on what is reflected there."""
PLACES = Learned(8.0, 1.0)
"""Places of which no distance is known, about their mean: learned, since it sets the unit of every scale."""
SHADOW = Learned(6.0, 0.8)
"""Places of known distance in all directions, about the path's law: nearly free, since it too would set the unit of every scale."""
ALONG = Learned(4.0, 0.2)
"""The same for places on one way. Where something breaks for good it has done so over a stretch, which evens shadows out: 6 is too wide
for reaches, and “at least” needs less still."""
ALIKE_LN = 0.35
"""How far two points of a way may be apart, in ln d, for their shadows to have a correlation of 1/e."""
KNOTS = 16
"""Points of a way at which its shadow is told, at most; between two of them it is in between."""
LEAST_ON_WAY = 3
MOMENT = Learned(1.0, 0.7)
"""One fade a moment: what all kinds and ends noted at that run, place and attempt share."""

EXPONENTS = {"flight": (2.1, 0.3), "orbit": (2.1, 0.3), "boat": (3.0, 0.6), "": (2.8, 0.7)}
"""n of the path's law, by the manner of the runs; a walk or a drive may go anywhere."""

READING = Learned(1.5, 0.7)
"""A level typed in dBm, about the level there: where exactly, and when."""
CELL = Learned(1.0, 0.7)
"""The mean of a log over one cell."""
S_UNIT = Learned(6.0, 0.18)
"""dB an S unit: meters differ by a fifth (IARU Region 1 recommendation R.1 has 6)."""
GAP = Learned(5.0, 0.42)
"""dB a grade or a bar: 2.5 to 10, nine times in ten."""
UNEVEN = 0.35
"""Of one gap against the others, as a share of it."""
GRADER = Learned(2.0, 0.5)
FULL_SCALE = Learned(25.0, 0.42)
"""dB from a bit rate of a twentieth to one of nineteen twentieths of the most there is."""
RATE = Learned(2.0, 0.6)
DELAY = Learned(5.0, 0.42)
"""dB for a delay e times as long."""
STEEP = Learned(0.2, 0.42)
"""Dropouts grow rarer by so much on the log a dB."""
MORE_THAN_CHANCE = Learned(1.5, 0.6)
"""What counts of dropouts scatter beyond Poisson's law, as dB of level."""
HEARING = Learned(1.0, 0.8)
"""About the threshold of heard or not heard."""
HEARING_DB = 0.5
"""The least of that."""
COUNTS = 0.8
"""Log standard deviation of the dB a count of a display of its own stands for, about what makes its readings range over 20 dB."""
COUNTS_RANGE_DB = 20.0
