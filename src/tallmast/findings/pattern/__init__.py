"""Pattern: where does the gain go, and what is lost over the angles that will be used.

`samples` is what a cut is read from: a file, a turn on the spot (`turn` records), a flight (`track`, `flown`); `cut` reads
one, `named` reads it off toward a place, `side` holds two antennas against each other, `ellipse` tells polarization, `gain`
what cuts tell of gain. `antenna` puts together what is known of each, `tell` says it.
"""

from .aimed import aimed_checks, ends_checks
from .antenna import AntennaPattern
from .cut import CutReading, read_cut
from .ellipse import as_measured
from .tell import PatternFinding, find, with_ranges

__all__ = [
    "AntennaPattern",
    "CutReading",
    "PatternFinding",
    "aimed_checks",
    "as_measured",
    "ends_checks",
    "find",
    "read_cut",
    "with_ranges",
]
