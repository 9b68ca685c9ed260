"""Levels: every decibel from the transmitter to the display.

`pieces` says what a thing from the drawer takes; `plan` puts a link together and `staircase` climbs it with its uncertainty;
`clear` keeps people away; `drawer` finds pads; `verify` reads checks of pads; `display` turns a display into decibels;
`compare` reads A B A; `noise` says what helps a receiver here; `exposed` what an input will see; `tell` puts it in
words.
"""

from .clear import Radiated, radiated
from .tell import LevelsFinding, find

__all__ = ["LevelsFinding", "Radiated", "find", "radiated"]
