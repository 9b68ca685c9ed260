"""The practice bench on the line: SCPI over TCP on loopback, one port an instrument.

    analyzer    SENSe:FREQuency, SENSe:SWEep:POINts, SENSe:AVERage, INITiate, CALCulate:DATA?
    meter       SOURce:POWer, SOURce:FREQuency, MEASure:SWR?, MEASure:POWer:FORWard?, MEASure:POWer:REFLected?
    hands       BENCh:ATTach, BENCh:CUT, BENCh:HAND, BENCh:PLATe, BENCh:CABLe, BENCh:JOINt

Every one answers *IDN?, *CLS, *OPC? and SYSTem:ERRor?. `python -m tallmast.instruments.practice` starts it alone.
"""

from __future__ import annotations

import math
import re
import socket
import socketserver
import threading
from collections import deque
from collections.abc import Callable
from typing import Any

import numpy as np

from .bench import PracticeBench

Handler = Callable[[str], "str | bytes | None"]


class Scpi:
    """One instrument's commands: long and short forms, a colon or none in front, several on a line by `;`."""

    name = "practice instrument"

    def __init__(self, bench: PracticeBench) -> None:
        self.bench = bench
        self.errors: deque[str] = deque(maxlen=20)
        self._table: list[tuple[re.Pattern[str], Handler]] = []
        self.on("*IDN?", lambda _: f"Practice,{self.name},0,1")
        self.on("*CLS", lambda _: self.errors.clear())
        self.on("*RST", lambda _: None)
        self.on("*OPC?", lambda _: "1")
        self.on("*WAI", lambda _: None)
        self.on("SYSTem:ERRor?", lambda _: self.errors.popleft() if self.errors else '0,"No error"')

    def on(self, command: str, handler: Handler) -> None:
        """`SENSe:FREQuency:STARt` is understood as SENS:FREQ:STAR, sense:frequency:start, and every mixture."""
        parts = []
        for word in command.rstrip("?").split(":"):
            short = re.match(r"[*A-Z0-9]+", word)
            head = short[0] if short else word
            parts.append(re.escape(head) + (f"(?:{re.escape(word[len(head) :])})?" if len(word) > len(head) else ""))
        tail = r"\?" if command.endswith("?") else ""
        self._table.append((re.compile(":".join(parts) + tail, re.IGNORECASE), handler))

    def take(self, line: str) -> bytes:
        """Answer a line; what is not understood goes to the error queue."""
        answers: list[bytes] = []
        for raw in line.split(";"):
            command = raw.strip().lstrip(":")
            if not command:
                continue
            head, _, argument = command.partition(" ")
            handler = next((h for pattern, h in self._table if pattern.fullmatch(head)), None)
            if handler is None:
                self.errors.append(f'-113,"Undefined header; {head}"')
                continue
            try:
                answer = handler(argument.strip())
            except ValueError as error:
                self.errors.append(f'-222,"Data out of range; {error}"')
                continue
            if answer is not None:
                answers.append(answer if isinstance(answer, bytes) else answer.encode())
        return b";".join(answers)


def block(data: bytes) -> bytes:
    """An IEEE 488.2 definite-length block."""
    size = str(len(data)).encode()
    return b"#" + str(len(size)).encode() + size + data


class AnalyzerScpi(Scpi):
    name = "one-port analyzer"

    def __init__(self, bench: PracticeBench) -> None:
        super().__init__(bench)
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
        self.on("SENSe:AVERage:STATe", lambda a: setattr(self, "averaging", a.upper() in ("ON", "1")))
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
        super().__init__(bench)
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
        super().__init__(bench)
        self.on("BENCh:ATTach", lambda a: bench.attach(a.strip('"')))
        self.on("BENCh:ATTach?", lambda _: bench.attached)
        self.on("BENCh:CUT", lambda a: self._change(lambda antenna: antenna.cut(float(a))))
        self.on(
            "BENCh:CUT?",
            lambda _: f"{bench.antennas[bench.attached].cut_m:.6f}" if bench.attached in bench.antennas else "0",
        )
        self.on("BENCh:HAND", lambda a: setattr(bench, "hand", a.upper() in ("ON", "1")))
        self.on("BENCh:PLATe", lambda a: setattr(bench, "plate_m", float(a)))
        self.on("BENCh:CABLe", lambda a: setattr(bench.cable, "length_m", float(a)))
        self.on("BENCh:JOINt", lambda a: setattr(bench.cable, "joint_m", float(a) or None))
        self.on("BENCh:CATalog?", lambda _: ",".join(f'"{n}"' for n in ("open", "short", "load", *bench.antennas)))

    def _change(self, how: Callable[..., Any]) -> None:
        self.bench.change(how)


class _Line(socketserver.StreamRequestHandler):
    def handle(self) -> None:
        server: Any = self.server
        self.request.setsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY, 1)
        with server.lock:
            server.lines.add(self.request)
        try:
            for raw in self.rfile:
                answer = server.answer(raw.decode("ascii", "replace").rstrip("\r\n"))
                if answer:
                    self.wfile.write(answer + b"\n")
        except (ConnectionError, OSError, ValueError):
            return
        finally:
            with server.lock:
                server.lines.discard(self.request)


class Instrument(socketserver.ThreadingTCPServer):
    """One instrument on one port of loopback."""

    allow_reuse_address = True
    daemon_threads = True

    def __init__(self, scpi: Scpi, port: int = 0) -> None:
        super().__init__(("127.0.0.1", port), _Line)
        self.scpi = scpi
        self.lock = threading.Lock()
        self.lines: set[socket.socket] = set()
        self._turn = threading.Lock()

    def answer(self, line: str) -> bytes:
        with self._turn:
            return self.scpi.take(line)

    @property
    def address(self) -> str:
        """As VISA writes it."""
        return f"TCPIP0::127.0.0.1::{self.server_address[1]}::SOCKET"

    def unplug(self) -> None:
        """Pull every line that is open, as a cable pulled in mid-sweep."""
        with self.lock:
            for line in list(self.lines):
                try:
                    line.shutdown(socket.SHUT_RDWR)
                except OSError:
                    continue


class PracticeServer:
    """All the instruments of one practice bench, each on a port of its own; started and stopped by whoever owns it."""

    def __init__(self, bench: PracticeBench | None = None) -> None:
        self.bench = bench or PracticeBench()
        self.analyzer = Instrument(AnalyzerScpi(self.bench))
        self.meter = Instrument(MeterScpi(self.bench))
        self.hands = Instrument(HandsScpi(self.bench))
        self._threads = [
            threading.Thread(target=server.serve_forever, kwargs={"poll_interval": 0.1}, daemon=True)
            for server in self.instruments
        ]
        for thread in self._threads:
            thread.start()

    @property
    def instruments(self) -> tuple[Instrument, ...]:
        return self.analyzer, self.meter, self.hands

    def stop(self) -> None:
        for server in self.instruments:
            server.unplug()
            server.shutdown()
            server.server_close()
