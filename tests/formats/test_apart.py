"""Reading in a process of its own: what it gives, what ends it, and what is said then."""

import os
import threading
import time
from pathlib import Path

import numpy as np
import pytest

from tallmast.formats.apart import Reader, StoppedError
from tallmast.formats.errors import FormatError


def doubled(name: str, values: np.ndarray) -> np.ndarray:
    return 2 * values


def wrong(name: str) -> None:
    raise FormatError(name, "the sums do not agree", 3, "Count again")


def odd(name: str) -> None:
    raise KeyError("x")


def endless(name: str) -> None:
    while True:
        pass


def greedy(name: str) -> int:
    return len(bytearray(3_000_000_000))


def broken(name: str) -> None:
    os.abort()


def noisy(name: str) -> str:
    os.write(1, b"written by native code")
    return "read all the same"


def own_number(name: str) -> int:
    return os.getpid()


@pytest.fixture
def reader():
    made = Reader(most_s=1.5)
    yield made
    made.close()


def test_what_it_gives_and_raises_comes_back(reader):
    assert reader.call("x", doubled, "x", np.arange(200_000)).sum() == 2 * np.arange(200_000).sum()
    with pytest.raises(FormatError) as told:
        reader.call("x", wrong, "x.csv")
    assert (told.value.file, told.value.line, told.value.todo) == ("x.csv", 3, "Count again")
    with pytest.raises(FormatError, match="it can't be read"):
        reader.call("x", odd, "x.csv")
    assert reader.call("x", noisy, "x") == "read all the same"


def test_it_is_one_process_that_stays(reader):
    first = reader.call("x", own_number, "x")
    assert first != os.getpid() and reader.call("x", own_number, "x") == first


@pytest.mark.parametrize(
    ("work", "said"), [(endless, "took longer than 1.5 s"), (greedy, "more than 2 GB of memory"), (broken, "no reader")]
)
def test_what_goes_beyond_its_limits_is_ended_and_the_next_one_is_read(reader, work, said):
    with pytest.raises(FormatError, match=said):
        reader.call("hostile.asc", work, "hostile.asc")
    assert reader.call("x", doubled, "x", np.ones(3)).tolist() == [2.0, 2.0, 2.0]


def test_somebody_may_stop_it(reader):
    reader = Reader()
    number = reader.call("x", own_number, "x")
    timer = threading.Timer(0.2, reader.stop)
    timer.start()
    begun = time.monotonic()
    with pytest.raises(StoppedError, match="was stopped"):
        reader.call("long.csv", endless, "long.csv")
    assert time.monotonic() - begun < 2.0
    assert gone(number)
    reader.close()


def test_it_ends_with_whoever_started_it(tmp_path):
    import subprocess
    import sys

    told = tmp_path / "number"
    script = (
        "from tallmast.formats.apart import Reader; from tests.formats.test_apart import own_number; import os, signal\n"
        f"open({str(told)!r}, 'w').write(str(Reader().call('x', own_number, 'x'))); os.kill(os.getpid(), signal.SIGKILL)"
    )
    subprocess.run([sys.executable, "-c", script], check=False, cwd=Path(__file__).parents[2])
    number = int(told.read_text())
    end = time.monotonic() + 5.0
    while not gone(number) and time.monotonic() < end:
        threading.Event().wait(0.05)
    assert gone(number)


def gone(number: int) -> bool:
    try:
        os.kill(number, 0)
    except ProcessLookupError:
        return True
    return "\nState:\tZ" in Path(f"/proc/{number}/status").read_text()
