"""Pattern: where does the gain go, and what is lost over the angles that will be used.

`cut` reads one cut, `gain` what cuts tell of gain, and `tell` puts both in words.
"""

from .cut import CutReading, read_cut
from .tell import AntennaPattern, PatternFinding, find

__all__ = ["AntennaPattern", "CutReading", "PatternFinding", "find", "read_cut"]
