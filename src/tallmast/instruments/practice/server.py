"""The practice bench on the line: SCPI over TCP on loopback, one port an instrument.

    analyzer    SENSe:FREQuency, SENSe:SWEep:POINts, SENSe:AVERage, INITiate, CALCulate:DATA?
    meter       SOURce:POWer, SOURce:FREQuency, MEASure:SWR?, MEASure:POWer:FORWard?, MEASure:POWer:REFLected?
    hands       BENCh:ATTach, BENCh:CUT, BENCh:SLEeve, BENCh:BEND, BENCh:HAND, BENCh:PLATe, BENCh:CABLe, BENCh:JOINt

and those of the practice range (`range_server`). Every one answers *IDN?, *CLS, *OPC? and SYSTem:ERRor?.
`python -m tallmast.instruments.practice` starts it alone.
"""

from __future__ import annotations

import math
import threading
from collections.abc import Callable
from functools import cached_property
from typing import Any

import numpy as np
from msgspec.structs import replace

from .bench import PracticeBench
from .range import PracticeRange
from .range_server import AttenuatorScpi, PowerMeterScpi, RangeHandsScpi, ReceiverScpi, SourceScpi, TurntableScpi
from .scpi_server import Instrument, Scpi, block


def _on(argument: str) -> bool:
    return argument.upper() in ("ON", "1")


class AnalyzerScpi(Scpi):
    name = "one-port analyzer"

    def __init__(self, bench: PracticeBench) -> None:
        super().__init__()
        self.bench = bench
        self.start, self.stop, self.points, self.averages = 840e6, 900e6, 401, 1
        self.averaging = False
        self.swept: np.ndarray[Any, Any] | None = None
        self.on("SENSe:FREQuency:STARt", lambda a: self._set("start", float(a)))
        self.on("SENSe:FREQuency:STARt?", lambda _: f"{self.start:.3f}")
        self.on("SENSe:FREQuency:STOP", lambda a: self._set("stop", float(a)))
        self.on("SENSe:FREQuency:STOP?", lambda _: f"{self.stop:.3f}")
        self.on("SENSe:SWEep:POINts", lambda a: self._set("points", int(float(a))))
        self.on("SENSe:SWEep:POINts?", lambda _: str(self.points))
        self.on("SENSe:AVERage:COUNt", lambda a: self._set("averages", int(float(a))))
        self.on("SENSe:AVERage:COUNt?", lambda _: str(self.averages))
        self.on("SENSe:AVERage:STATe", lambda a: setattr(self, "averaging", _on(a)))
        self.on("INITiate:CONTinuous", lambda _: None)
        self.on("FORMat:DATA", lambda _: None)
        self.on("FORMat:BORDer", lambda _: None)
        self.on("INITiate:IMMediate", lambda _: self._sweep())
        self.on("CALCulate:DATA?", lambda _: self._data())
        self.on("SENSe:FREQuency:DATA?", lambda _: block(self._grid().astype("<f8").tobytes()))
        self.on("DIAGnostic:TEMPerature?", lambda _: f"{21 + bench.warmth_k():.2f}")

    def _set(self, name: str, value: float) -> None:
        least, most = {"points": (2, 200_001), "averages": (1, 10_000)}.get(name, (1e5, 6e9))
        if not least <= value <= most:
            raise ValueError(f"{name} {value:g} is not within {least:g} and {most:g}")
        setattr(self, name, value)

    def _grid(self) -> np.ndarray[Any, Any]:
        if not self.start < self.stop:
            raise ValueError("start is not below stop")
        return np.linspace(self.start, self.stop, int(self.points))

    def _sweep(self) -> None:
        self.swept = self.bench.sweep(self._grid(), int(self.averages) if self.averaging else 1)

    def _data(self) -> bytes:
        if self.swept is None:
            self._sweep()
        assert self.swept is not None
        return block(self.swept.astype("<c16").view("<f8").tobytes())


class MeterScpi(Scpi):
    name = "inline SWR meter"

    def __init__(self, bench: PracticeBench) -> None:
        super().__init__()
        self.bench = bench
        self.frequency: float = 869e6
        self.power: float = 0.4
        self.on("SOURce:FREQuency", lambda a: setattr(self, "frequency", float(a)))
        self.on("SOURce:POWer", lambda a: setattr(self, "power", float(a)))
        self.on("MEASure:POWer:FORWard?", lambda _: f"{self._powers()[0]:.6g}")
        self.on("MEASure:POWer:REFLected?", lambda _: f"{self._powers()[1]:.6g}")
        self.on("MEASure:SWR?", lambda _: f"{self._swr():.3f}")

    def _powers(self) -> tuple[float, float]:
        return self.bench.meter_powers(self.frequency, self.power)

    def _swr(self) -> float:
        forward, reflected = self._powers()
        magnitude = min(math.sqrt(reflected / forward), 0.98)
        return (1 + magnitude) / (1 - magnitude)


class HandsScpi(Scpi):
    """What a person would do at the bench."""

    name = "hands"

    def __init__(self, bench: PracticeBench) -> None:
        super().__init__()
        self.bench = bench
        self.on("BENCh:ATTach", lambda a: bench.attach(a.strip('"')))
        self.on("BENCh:ATTach?", lambda _: bench.attached)
        self.on("BENCh:CUT", lambda a: self._change(lambda antenna: antenna.cut(float(a))))
        self.on(
            "BENCh:CUT?",
            lambda _: f"{bench.antennas[bench.attached].cut_m:.6f}" if bench.attached in bench.antennas else "0",
        )
        self.on("BENCh:SLEeve", lambda a: self._change(lambda antenna: replace(antenna, sleeved=_on(a))))
        self.on("BENCh:BEND", lambda a: self._change(lambda antenna: replace(antenna, bent=_on(a))))
        self.on("BENCh:HAND", lambda a: setattr(bench, "hand", _on(a)))
        self.on("BENCh:PLATe", lambda a: setattr(bench, "plate_m", float(a)))
        self.on("BENCh:CABLe", lambda a: setattr(bench.cable, "length_m", float(a)))
        self.on("BENCh:JOINt", lambda a: setattr(bench.cable, "joint_m", float(a) or None))
        self.on("BENCh:CATalog?", lambda _: ",".join(f'"{n}"' for n in ("open", "short", "load", *bench.antennas)))

    def _change(self, how: Callable[..., Any]) -> None:
        self.bench.change(how)


class Served:
    """Some instruments, each on a port of its own, from now until `stop`."""

    def __init__(self, *scpi: Scpi) -> None:
        self.instruments = tuple(Instrument(each) for each in scpi)
        for server in self.instruments:
            threading.Thread(target=server.serve_forever, kwargs={"poll_interval": 0.1}, daemon=True).start()

    def stop(self) -> None:
        for server in self.instruments:
            server.unplug()
            server.shutdown()
            server.server_close()


class PracticeServer:
    """The practice bench and, when first wanted, the range beside it; started and stopped by whoever owns it."""

    def __init__(self, bench: PracticeBench | None = None, range_: PracticeRange | None = None) -> None:
        self.bench = bench or PracticeBench()
        self.range = range_ or PracticeRange()
        self._bench = Served(AnalyzerScpi(self.bench), MeterScpi(self.bench), HandsScpi(self.bench))
        self.analyzer, self.meter, self.hands = self._bench.instruments

    @cached_property
    def _range(self) -> Served:
        makers = (SourceScpi, AttenuatorScpi, PowerMeterScpi, TurntableScpi, RangeHandsScpi, ReceiverScpi)
        return Served(*(make(self.range) for make in makers))

    @property
    def source(self) -> Instrument:
        return self._range.instruments[0]

    @property
    def attenuator(self) -> Instrument:
        return self._range.instruments[1]

    @property
    def power_meter(self) -> Instrument:
        return self._range.instruments[2]

    @property
    def turntable(self) -> Instrument:
        return self._range.instruments[3]

    @property
    def range_hands(self) -> Instrument:
        return self._range.instruments[4]

    @property
    def receiver(self) -> Instrument:
        return self._range.instruments[5]

    @property
    def instruments(self) -> tuple[Instrument, ...]:
        """Every one, for those who want to talk to them."""
        return (*self._bench.instruments, *self._range.instruments)

    def stop(self) -> None:
        self._bench.stop()
        if "_range" in self.__dict__:
            self._range.stop()
