"""A simulated instrument that speaks SCPI over TCP on loopback: its commands, its error queue, its line."""

from __future__ import annotations

import re
import socket
import socketserver
import threading
from collections import deque
from collections.abc import Callable
from typing import Any

Handler = Callable[[str], "str | bytes | None"]


class Scpi:
    """One instrument's commands: long and short forms, a colon or none in front, several on a line by `;`."""

    name = "practice instrument"

    def __init__(self) -> None:
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
                answers.append(answer if isinstance(answer, bytes) else answer.encode("ascii", "replace"))
        return b";".join(answers)


def block(data: bytes) -> bytes:
    """An IEEE 488.2 definite-length block."""
    size = str(len(data)).encode()
    return b"#" + str(len(size)).encode() + size + data


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
