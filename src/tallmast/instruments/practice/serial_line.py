"""A simulated instrument on a serial line: the same SCPI over a pseudo-terminal, which any program opens like a port with a plug in it."""

from __future__ import annotations

import contextlib
import os
import threading
import tty

from .scpi_server import Scpi

CHUNK = 4096


class SerialInstrument:
    """One instrument at the far end of a pseudo-terminal, from now until `stop`. Both ends count in bytes: nothing is echoed or turned."""

    def __init__(self, scpi: Scpi) -> None:
        self.scpi = scpi
        self._ours, self._theirs = os.openpty()
        tty.setraw(self._theirs)
        self._path = os.ttyname(self._theirs)
        self._serving = threading.Thread(target=self._serve, daemon=True)
        self._serving.start()

    @property
    def address(self) -> str:
        """As VISA writes it."""
        return f"ASRL{self._path}::INSTR"

    def unplug(self) -> None:
        """Pull the plug: whoever is on the line hears of it at the next byte."""
        for end in (self._ours, self._theirs):
            with contextlib.suppress(OSError):
                os.close(end)

    def stop(self) -> None:
        with contextlib.suppress(OSError):
            os.write(self._theirs, b"\0\n")  # a line that ends the one who waits for it
        self._serving.join(2.0)
        self.unplug()

    def _serve(self) -> None:
        waiting = b""
        with contextlib.suppress(OSError):
            while True:
                waiting += os.read(self._ours, CHUNK)
                *lines, waiting = waiting.split(b"\n")
                for line in lines:
                    answer = self.scpi.take(line.decode("ascii", "replace").rstrip("\r"))
                    if answer:
                        self._say(answer + b"\n")

    def _say(self, data: bytes) -> None:
        while data:
            data = data[os.write(self._ours, data) :]
