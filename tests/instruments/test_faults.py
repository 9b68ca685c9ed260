"""An instrument that misbehaves: each fault is one sentence with what to try, and the next sweep is sound."""

import socket
import threading
import time

import numpy as np
import pytest

from tallmast.instruments.driver import InstrumentError, SweepPlan
from tallmast.instruments.practice.bench import PracticeBench
from tallmast.instruments.practice.scpi_server import Instrument, block
from tallmast.instruments.practice.server import AnalyzerScpi
from tallmast.instruments.scpi import ScpiAnalyzer, ScpiLink

PLAN = SweepPlan(840e6, 900e6, 51)
GOOD = block(np.full(102, 0.1).astype("<f8").tobytes())


class Faulty(AnalyzerScpi):
    """Answers by a script: what `script` holds for a question is given instead, once."""

    def __init__(self) -> None:
        super().__init__(PracticeBench(noise=0.0))
        self.script: dict[str, list[bytes | float]] = {}

    def take(self, line: str) -> bytes:
        for question, answers in self.script.items():
            if question in line and answers:
                answer = answers.pop(0)
                if isinstance(answer, float):
                    time.sleep(answer)
                    return b""
                return answer
        return super().take(line)


@pytest.fixture
def faulty():
    scpi = Faulty()
    server = Instrument(scpi)
    threading.Thread(target=server.serve_forever, kwargs={"poll_interval": 0.05}, daemon=True).start()
    scpi.server = server
    yield scpi
    server.unplug()
    server.shutdown()
    server.server_close()


@pytest.fixture
def analyzer(faulty):
    link = ScpiLink(faulty.server.address, timeout_ms=400)
    made = ScpiAnalyzer(link)
    made.configure(PLAN)
    made.sweep()
    yield made
    made.close()


@pytest.mark.parametrize(
    ("answer", "words"),
    [
        (b"#", "garbled answer"),
        (b"hello there, this is no block", "garbled answer"),
        (b"#9", "no answer"),
        (b"#3abc", "garbled"),
        (block(np.full(60, 0.1).tobytes()), "sweep of 30 points where 51"),
        (block(b"1234567"), "broken numbers"),
        (block(np.full(102, np.nan).tobytes()), "51 of 51 points"),
        (block(np.full(102, 9.0).tobytes()), "more comes back"),
        (GOOD[:300], "no answer"),
        (0.6, "no answer"),
    ],
)
def test_a_bad_answer_is_told_and_the_next_sweep_is_sound(faulty, analyzer, answer, words):
    faulty.script["CALC:DATA?"] = [answer]
    with pytest.raises(InstrumentError, match=f"(?i){words}") as caught:
        analyzer.sweep()
    assert caught.value.todo
    assert str(caught.value).endswith(".")
    if isinstance(answer, float):
        time.sleep(0.3)
    analyzer.link.drain()
    for _ in range(3):
        try:
            good = analyzer.sweep()
            break
        except InstrumentError:
            analyzer.link.drain()
    assert np.isfinite(good.gamma).all()
    assert len(good.gamma) == 51


def test_a_cable_pulled_in_mid_sweep_and_plugged_in_again(faulty, analyzer):
    faulty.server.unplug()
    with pytest.raises(InstrumentError, match=r"broke|No answer"):
        for _ in range(3):
            analyzer.sweep()
    again = ScpiAnalyzer.at(faulty.server.address)
    again.configure(PLAN)
    assert len(again.sweep().gamma) == 51
    again.close()


def test_nothing_at_the_address():
    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        port = free.getsockname()[1]
    with pytest.raises(InstrumentError, match="Nothing answers"):
        ScpiAnalyzer.at(f"TCPIP0::127.0.0.1::{port}::SOCKET")


@pytest.mark.parametrize("address", ["", "nonsense", "TCPIP0::::SOCKET", "ASRL/dev/nothing::INSTR"])
def test_an_address_that_is_none(address):
    with pytest.raises(InstrumentError, match="can't be opened"):
        ScpiAnalyzer.at(address)


def test_an_entry_in_the_error_queue_is_told_in_the_instruments_words(faulty, analyzer):
    faulty.script["SYST:ERR?"] = [b'-222,"Data out of range; points"']
    with pytest.raises(InstrumentError, match="“Data out of range; points”"):
        analyzer.configure(PLAN)


def test_another_number_of_points_than_asked_for(faulty, analyzer):
    faulty.script["SENS:SWE:POIN?"] = [b"201"]
    with pytest.raises(InstrumentError, match="sweeps 201 points, not 51"):
        analyzer.configure(PLAN)


def test_an_instrument_that_does_not_tell_its_warmth(faulty):
    faulty._table = [(p, h) for p, h in faulty._table if not p.fullmatch("DIAG:TEMP?")]
    made = ScpiAnalyzer(ScpiLink(faulty.server.address, timeout_ms=800))
    made.configure(PLAN)
    assert made.sweep().warmth_k is None
    started = time.perf_counter()
    assert made.sweep().warmth_k is None
    assert time.perf_counter() - started < 0.35, "asked in vain only once"
    made.close()


def test_no_sweep_without_a_plan(faulty):
    made = ScpiAnalyzer(ScpiLink(faulty.server.address))
    with pytest.raises(InstrumentError, match="No sweep is planned"):
        made.sweep()
    made.close()
