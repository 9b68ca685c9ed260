"""The practice bench in step with the notebook: its antennas, as long as their states say."""

from __future__ import annotations

import zlib
from collections.abc import Sequence
from typing import TYPE_CHECKING

from msgspec.structs import replace

from tallmast.notebook.records import Antenna, StandardSet

if TYPE_CHECKING:
    from tallmast.instruments.practice.bench import PracticeBench

PRACTICE = "practice bench"
"""What stands for an address where nothing outside is connected."""

STANDARDS = StandardSet(name="practice", open_fringe_f=[49e-15], load_ohm=50.4, load_return_loss_db=46.0)
"""As they are written on the lid of the practice bench’s box."""


def stock(bench: PracticeBench, antennas: Sequence[Antenna], centre_hz: float) -> None:
    """Lay the shelf's antennas on the bench, cut, sleeved and bent as their states say: taking back a cut puts the wire
    back.

    One that the bench does not know becomes some antenna near the wanted band, a little long, always the same one for
    the same name.
    """
    from tallmast.instruments.practice.antennas import PracticeAntenna

    for antenna in antennas:
        there = bench.antennas.get(antenna.name)
        if there is None:
            dice = zlib.crc32(antenna.name.encode())
            there = PracticeAntenna(
                antenna.name,
                resonance_hz=centre_hz * (0.965 + 0.03 * (dice % 97) / 97),
                resistance_ohm=40.0 + dice // 97 % 31,
                q=8.0 + dice // 3007 % 13,
                part_m=antenna.cut_part_m or 74.9e6 / centre_hz,
                end_m=0.03 * 74.9e6 / centre_hz,
            )
        cut = sum(state.cut_m for state in antenna.states)
        if abs(there.cut_m - cut) > 1e-9 and cut < there.part_m:
            there = replace(there, cut_m=cut)
        sleeved, bent = _done(antenna, "sleeve"), _done(antenna, "bent") or _done(antenna, "bend")
        bench.antennas[antenna.name] = replace(there, sleeved=sleeved, bent=bent)


def _done(antenna: Antenna, what: str) -> bool:
    """Whether the states, in order, say that it was done and not undone: “sleeved”, “sleeve off”, “straightened”."""
    done = False
    for state in antenna.states:
        name = state.name.lower()
        if what in name:
            done = not any(word in name for word in (" off", "no ", "without", f"un{what}"))
        elif what in ("bent", "bend") and "straight" in name:
            done = False
    return done


def next_cable(bench: PracticeBench) -> str:
    """Three metres of cable in between; once more, the same with a bad joint; once more, none. What it is now, in words."""
    cable = bench.cable
    if cable.length_m <= 0:
        cable.length_m, cable.joint_m = 3.0, None
        return "3 m of cable lie in between now. D once more: the same with a bad joint."
    if cable.joint_m is None:
        cable.joint_m = 1.85
        return "Somewhere on the cable is a bad joint now; Y finds it. D once more takes the cable away."
    cable.length_m, cable.joint_m = 0.0, None
    return "No cable in between."
