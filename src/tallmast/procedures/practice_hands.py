"""The hands at the practice bench: what is attached to it, and its inline meter."""

from __future__ import annotations

from functools import partialmethod
from typing import TYPE_CHECKING

from tallmast.instruments.scpi import read_powers
from tallmast.units import show

from . import keeping, practising
from .on_bench import OnBench

if TYPE_CHECKING:
    from tallmast.instruments.practice.bench import PracticeBench
    from tallmast.instruments.practice.server import PracticeServer
    from tallmast.notebook.records import Antenna


class PracticeHands:
    """At the bench that the analyzer on the line belongs to; idle with an analyzer of somebody's own."""

    def __init__(self, analyzer: OnBench) -> None:
        self._analyzer = analyzer
        self.server: PracticeServer | None = None

    def start(self) -> str:
        """The address of the bench's analyzer; the bench is started when first wanted."""
        if self.server is None:
            from tallmast.instruments.practice.server import PracticeServer

            self.server = PracticeServer()
        return self.server.analyzer.address

    def stop(self) -> None:
        if self.server is not None:
            self.server.stop()
            self.server = None

    @property
    def bench(self) -> PracticeBench | None:
        """The bench, where it is what is measured."""
        return self.server.bench if self.server is not None and self._analyzer.practising else None

    @property
    def attached(self) -> str:
        """What is attached to the bench; empty where nobody can know."""
        return self.bench.attached if self.bench is not None else ""

    def holds(self, antenna: Antenna) -> bool:
        """Whether an antenna is attached, as far as anybody can know; told where it is not."""
        if self.attached in ("", antenna.name):
            return True
        self._tell(f"{show.upper_first(self.attached)} is attached, not {antenna.name}: press A first.")
        return False

    def _tell(self, todo: str) -> None:
        self._analyzer.tell(todo=todo)

    def stock(self) -> None:
        """The shelf's antennas laid on the bench, as their states say."""
        if self.server is not None:
            place, plan = self._analyzer.place, self._analyzer.plan
            centre = place.question.centre_hz if place.question else 0.5 * (plan.start_hz + plan.stop_hz)
            practising.stock(self.server.bench, place.evidence.antennas, centre)

    def attach(self, what: str) -> None:
        if self.server is None:
            return
        bench = self.server.bench
        try:
            bench.attach(what)
        except ValueError as error:
            self._tell(f"{show.upper_first(str(error))}. It has {', '.join(bench.antennas)}.")
            return
        self._tell(f"Attached: {bench.attached}.")
        self._analyzer.remind()

    attach_open = partialmethod(attach, "open")
    attach_short = partialmethod(attach, "short")
    attach_load = partialmethod(attach, "load")

    def attach_antenna(self) -> None:
        antenna = self._analyzer.antenna()
        if antenna is not None:
            self.stock()
            self.attach(antenna.name)

    def next_cable(self) -> None:
        if self.server is not None:
            self._tell(practising.next_cable(self.server.bench))

    def could_cut(self, antenna: Antenna, length_m: float) -> bool:
        """Whether so much can be cut off the antenna on the bench; told where it can't. The state that is kept does it."""
        bench = self.bench
        if bench is None:
            return True
        if bench.attached != antenna.name:
            self.attach(antenna.name)
        try:
            bench.antennas[antenna.name].cut(length_m)
        except (ValueError, KeyError) as error:
            self._tell(f"{show.upper_first(str(error))}.")
            return False
        return True

    def read_meter(self) -> None:
        """The bench's inline meter on what is attached, at the band's centre, kept as a reading."""
        analyzer, server = self._analyzer, self.server
        antenna, question = analyzer.antenna(), analyzer.place.question
        if antenna is None or question is None or server is None or not self.holds(antenna):
            return
        hz, address = question.centre_hz, server.meter.address

        def read(powers: tuple[float, float] | None, error: Exception | None) -> None:
            if powers is None:
                analyzer.place.tell(str(error))
            elif analyzer.place.write(keeping.meter(antenna, hz, *powers, analyzer.setting)):
                self._tell("The meter was read: the check at the top says whether it agrees with the sweep.")

        analyzer.place.work("Reading the meter", lambda: read_powers(address, hz), read)
