"""Pattern: where does the gain go, and what is lost over the angles that will be used.

`samples` is what a cut is read from: a file, a turn on the spot, a turntable (`turntable`), a flight (`track`, `clocks`,
`carried`, `flown`, `by_levels`); `cut` reads one by its `marks`, `named` reads it off toward a place, `held` and `side` hold two against each
other, `design` one against its design, `ellipse` tells polarization, `aimed` where it goes wrong between both ends, `gain` what
cuts tell of gain, `pairs` and `branches` what two are worth together (`whole`: an antenna in every direction, `mounted`: as it stands on its mast). `antenna` puts
together what is known of each, `words` and `tell` say it.
"""

from .aimed import aimed_checks, ends_checks
from .antenna import AntennaPattern, ReadSamples
from .cut import CutReading, read_cut
from .ellipse import as_measured, fate_of
from .mounted import Mounted, mounted
from .tell import PatternFinding, find, find_cuts, with_ranges

__all__ = [
    "AntennaPattern",
    "CutReading",
    "Mounted",
    "PatternFinding",
    "ReadSamples",
    "aimed_checks",
    "as_measured",
    "ends_checks",
    "fate_of",
    "find",
    "find_cuts",
    "mounted",
    "read_cut",
    "with_ranges",
]
