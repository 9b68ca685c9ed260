"""The practice range on the line: five instruments more, SCPI over TCP on loopback.

level source      SOURce:POWer, SOURce:FREQuency, OUTPut:STATe
step attenuator   INPut:ATTenuation
power meter       MEASure:POWer?, SENSe:FREQuency
turntable         AXIS:ANGLe, AXIS:ANGLe?, AXIS:MOVing?
receiver          DISPlay:SCALe, DISPlay:SHOWn?
"""

from __future__ import annotations

import math

from .range import REFERENCE, STEPS_DB, PracticePattern, PracticeRange
from .scpi_server import Scpi


class SourceScpi(Scpi):
    name = "level source"

    def __init__(self, bench: PracticeRange) -> None:
        super().__init__()
        self.on("SOURce:POWer", lambda a: bench.set_level(float(a)))
        self.on("SOURce:POWer?", lambda _: f"{bench.source_dbm:.3f}")
        self.on("SOURce:FREQuency", lambda a: _set_frequency(bench, float(a)))
        self.on("SOURce:FREQuency?", lambda _: f"{bench.frequency_hz:.3f}")
        self.on("OUTPut:STATe", lambda a: setattr(bench, "source_on", a.upper() in ("ON", "1")))
        self.on("OUTPut:STATe?", lambda _: str(int(bench.source_on)))


class AttenuatorScpi(Scpi):
    name = "step attenuator"

    def __init__(self, bench: PracticeRange) -> None:
        super().__init__()
        self.on("INPut:ATTenuation", lambda a: bench.set_attenuation(float(a)))
        self.on("INPut:ATTenuation?", lambda _: str(bench.attenuation_db))
        self.on("INPut:ATTenuation:MAXimum?", lambda _: str(sum(STEPS_DB)))


class PowerMeterScpi(Scpi):
    name = "power meter"

    def __init__(self, bench: PracticeRange) -> None:
        super().__init__()
        self.on("SENSe:FREQuency", lambda a: None if float(a) > 0 else _refuse("a frequency is above zero"))
        self.on("MEASure:POWer?", lambda _: f"{bench.meter_dbm():.4f}")


class TurntableScpi(Scpi):
    name = "turntable"

    def __init__(self, bench: PracticeRange) -> None:
        super().__init__()
        self.on("AXIS:ANGLe", lambda a: bench.turn_to(float(a)))
        self.on("AXIS:ANGLe?", lambda _: f"{bench.angle_deg:.3f}")
        self.on("AXIS:MOVing?", lambda _: str(int(bench.moving)))


class ReceiverScpi(Scpi):
    """A receiver whose display can be asked."""

    name = "receiver"

    def __init__(self, bench: PracticeRange) -> None:
        super().__init__()
        self.on("DISPlay:SCALe", lambda a: bench.set_receiver(a.strip('"')))
        self.on("DISPlay:SCALe?", lambda _: bench.receiver.scale)
        self.on("DISPlay:SHOWn?", lambda _: f"{bench.display():.6f}")


class RangeHandsScpi(Scpi):
    """What a person would do there."""

    name = "hands at the range"

    def __init__(self, bench: PracticeRange) -> None:
        super().__init__()
        self.on("BENCh:PAD", lambda a: bench.put_in(a.strip('"')))
        self.on("BENCh:PAD?", lambda _: bench.pad.name if bench.pad else "none")
        self.on("BENCh:PAD:CATalog?", lambda _: ",".join(f'"{name}"' for name in ("none", *bench.pads)))
        self.on("BENCh:TURNtable", lambda a: _mount(bench, a.upper()))


def _set_frequency(bench: PracticeRange, frequency_hz: float) -> None:
    if not (math.isfinite(frequency_hz) and 1e5 <= frequency_hz <= 6e9):
        raise ValueError("the source makes 100 kHz to 6 GHz")
    bench.frequency_hz = frequency_hz


def _mount(bench: PracticeRange, what: str) -> None:
    """ON: the antenna measured; REF or REFERENCE: one to hold it against; else a through line."""
    stands = {"ON": PracticePattern(), "1": PracticePattern(), "REF": REFERENCE, "REFERENCE": REFERENCE}
    bench.pattern = stands.get(what)


def _refuse(why: str) -> None:
    raise ValueError(why)
