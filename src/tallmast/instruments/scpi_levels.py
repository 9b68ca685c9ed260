"""Level source, step attenuator, power meter and turntable and a display by SCPI over PyVISA."""

from __future__ import annotations

import math

from .driver import InstrumentError
from .scpi import ScpiInstrument


class ScpiLevelSource(ScpiInstrument):
    """SOURce:FREQuency, SOURce:POWer (dBm), OUTPut:STATe."""

    def set(self, frequency_hz: float, level_dbm: float) -> None:
        self.link.write(f"SOUR:FREQ {frequency_hz:.3f};:SOUR:POW {level_dbm:.3f}")
        self.link.complain(f"make {level_dbm:g} dBm at {frequency_hz / 1e6:g} MHz")

    def switch(self, on: bool) -> None:
        self.link.write(f"OUTP:STAT {'ON' if on else 'OFF'}")
        self.link.complain("switch its output")


class ScpiStepAttenuator(ScpiInstrument):
    """INPut:ATTenuation (dB)."""

    def set(self, attenuation_db: float) -> None:
        self.link.write(f"INP:ATT {attenuation_db:g}")
        self.link.complain(f"set {attenuation_db:g} dB")


class ScpiPowerMeter(ScpiInstrument):
    """SENSe:FREQuency, MEASure:POWer? (dBm)."""

    _frequency_hz = 0.0

    def level_dbm(self, frequency_hz: float) -> float:
        """What arrives at a frequency, dBm. Raises `InstrumentError` where it shows no reading."""
        if frequency_hz != self._frequency_hz:
            self.link.write(f"SENS:FREQ {frequency_hz:.3f}")
            self.link.complain(f"measure at {frequency_hz / 1e6:g} MHz")
            self._frequency_hz = frequency_hz
        level = self.link.number("MEAS:POW?")
        # SCPI-99 writes 9.9E37 where there is no reading.
        if not math.isfinite(level) or abs(level) > 400:
            raise InstrumentError("the power meter shows no reading", "Look at its range and its own screen")
        return level


class ScpiDisplay(ScpiInstrument):
    """A receiver whose display can be asked: DISPlay:SCALe, DISPlay:SHOWn?."""

    def choose(self, scale: str) -> None:
        self.link.write(f'DISP:SCAL "{scale}"')
        self.link.complain(f"show {scale}")

    def shown(self) -> float:
        return self.link.number("DISP:SHOW?")


class ScpiTurntable(ScpiInstrument):
    """AXIS:ANGLe (degrees), AXIS:ANGLe?, AXIS:MOVing?."""

    def turn_to(self, angle_deg: float) -> None:
        self.link.write(f"AXIS:ANGL {angle_deg:.3f}")
        self.link.complain(f"turn to {angle_deg:g}°")

    def angle_deg(self) -> float:
        return self.link.number("AXIS:ANGL?")

    def moving(self) -> bool:
        return self.link.number("AXIS:MOV?") != 0
