"""Instruments that never stop talking, talk a letter at a time, or say nonsense: bounded in bytes and in seconds."""

import socket
import threading
import time

import pytest

from tallmast.instruments import scpi
from tallmast.instruments.driver import InstrumentError, SweepPlan
from tallmast.instruments.scpi import ScpiAnalyzer, ScpiLink


class Hostile:
    """A socket that answers every line with what `say` sends, for as long as anybody listens."""

    def __init__(self, say) -> None:
        self.say = say
        self.sent = 0
        self.listener = socket.create_server(("127.0.0.1", 0))
        self.address = f"TCPIP0::127.0.0.1::{self.listener.getsockname()[1]}::SOCKET"
        self.gone = threading.Event()
        threading.Thread(target=self.serve, daemon=True).start()

    def serve(self) -> None:
        try:
            line, _ = self.listener.accept()
            with line:
                while line.recv(4096):
                    for data in self.say():
                        line.sendall(data)
                        self.sent += len(data)
        except OSError:
            pass
        self.gone.set()


def endless():
    while True:
        yield b"1234567890" * 1000


def trickle():
    while True:
        yield b"1"
        time.sleep(0.05)


@pytest.fixture
def impatient(monkeypatch):
    monkeypatch.setattr(scpi, "WHOLE_S", 1.0)


@pytest.mark.parametrize("say", [endless, trickle])
@pytest.mark.parametrize("what", ["ask", "block", "complain"])
def test_every_call_is_bounded_in_bytes_and_seconds(impatient, say, what):
    hostile = Hostile(say)
    link = ScpiLink(hostile.address, timeout_ms=400)
    began = time.monotonic()
    with pytest.raises(InstrumentError):
        link.complain("sweep") if what == "complain" else getattr(link, what)("CALC:DATA?")
    assert time.monotonic() - began < 2.5
    link.close()
    assert hostile.gone.wait(3.0)
    assert hostile.sent < 20_000_000


def test_an_error_text_without_measure_is_cut():
    hostile = Hostile(lambda: [b'-222,"' + b"x" * 30_000 + b'"\n'])
    link = ScpiLink(hostile.address, timeout_ms=400)
    with pytest.raises(InstrumentError) as told:
        link.complain("sweep")
    assert len(str(told.value)) < 300
    link.close()


@pytest.mark.parametrize("answer", [b"nan\n", b"inf\n", b"1e999\n", b"\xff\xfe\n", b"many\n"])
def test_numbers_that_are_none(answer):
    hostile = Hostile(lambda: [answer])
    analyzer = ScpiAnalyzer(ScpiLink(hostile.address, timeout_ms=400))
    with pytest.raises(InstrumentError):
        analyzer.link.number("SENS:SWE:POIN?")
    with pytest.raises(InstrumentError):
        analyzer.configure(SweepPlan(840e6, 900e6, 51))
    analyzer.close()


def test_a_loop_lets_go_within_a_second_of_a_deaf_instrument(qtbot):
    from tallmast.desk.bench.sweeping import SweepLoop

    hostile = Hostile(trickle)
    loop = SweepLoop(ScpiAnalyzer.at, hostile.address, SweepPlan(840e6, 900e6, 51))
    loop.start()
    loop.go()
    qtbot.waitUntil(lambda: hostile.sent > 3, timeout=5000)
    began = time.monotonic()
    loop.stop()
    assert loop.wait(1000) or _made_to(loop)
    assert time.monotonic() - began < 1.9


def _made_to(loop) -> bool:
    loop.terminate()
    return loop.wait(800)
