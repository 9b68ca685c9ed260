"""Source, step attenuator, power meter and turntable: what procedures on levels work with."""

from __future__ import annotations

from contextlib import suppress
from typing import TYPE_CHECKING, Any

from tallmast.frozen import Frozen

from .practising import PRACTICE
from .procedure import Procedure, Workplace

if TYPE_CHECKING:
    from tallmast.instruments.practice.server import PracticeServer


class Addresses(Frozen, eq=True):
    """Where the instruments are. Source, meter and turntable are all of the practice bench, or none."""

    source: str = PRACTICE
    attenuator: str = PRACTICE
    meter: str = PRACTICE
    turntable: str = PRACTICE

    @property
    def practising(self) -> bool:
        return self.source == PRACTICE


class Range:
    """Source, step attenuator and power meter on their lines, opened when first wanted. Used from the worker only."""

    def __init__(self, addresses: Addresses) -> None:
        self.addresses = addresses
        self.practice: PracticeServer | None = None
        self._open: dict[str, Any] = {}

    @property
    def practising(self) -> bool:
        return self.addresses.practising

    def get(self, which: str) -> Any:
        """One of 'source', 'attenuator', 'meter', 'turntable', 'hands', 'receiver'. Raises InstrumentError."""
        from tallmast.instruments.scpi import ScpiInstrument
        from tallmast.instruments.scpi_levels import (
            ScpiDisplay,
            ScpiLevelSource,
            ScpiPowerMeter,
            ScpiStepAttenuator,
            ScpiTurntable,
        )

        if which not in self._open:
            if self.practice is None and (self.practising or which in ("hands", "receiver")):
                from tallmast.instruments.practice.server import PracticeServer

                self.practice = PracticeServer()
            drivers = {
                "source": (ScpiLevelSource, self.addresses.source, "source"),
                "attenuator": (ScpiStepAttenuator, self.addresses.attenuator, "attenuator"),
                "meter": (ScpiPowerMeter, self.addresses.meter, "power_meter"),
                "turntable": (ScpiTurntable, self.addresses.turntable, "turntable"),
                "hands": (ScpiInstrument, PRACTICE, "range_hands"),
                "receiver": (ScpiDisplay, PRACTICE, "receiver"),
            }
            driver, address, practice = drivers[which]
            if address == PRACTICE:
                assert self.practice is not None
                address = getattr(self.practice, practice).address
            self._open[which] = driver.at(address)
        return self._open[which]

    def close(self) -> None:
        """Switch the source off and let go of everything; never raises."""
        from tallmast.instruments.driver import InstrumentError

        source = self._open.get("source")
        if source is not None:
            with suppress(InstrumentError):  # it does not answer any more; there is nothing else to be done
                source.switch(False)
        for made in self._open.values():
            made.close()
        self._open = {}
        if self.practice is not None:
            self.practice.stop()
            self.practice = None


class OnLevels(Procedure):
    """Base of the procedures that use them."""

    def __init__(self, place: Workplace) -> None:
        super().__init__(place)
        self.range = Range(Addresses())

    @property
    def frequency_hz(self) -> float:
        question = self.place.question
        return question.centre_hz if question else 869e6

    def use(self, addresses: Addresses) -> None:
        """Other instruments."""
        old, self.range = self.range, Range(addresses)
        self.place.work("Changing instruments", old.close, lambda result, error: None)

    def end(self) -> None:
        self.range.close()
