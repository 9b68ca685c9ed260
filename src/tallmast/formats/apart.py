"""Reading in a process of its own, which can be ended: what is native code, or an archive, or large.

The process is started with the first such file and stays. It may take so much memory and so long for one file, and dies with whoever
started it: by its end of the pipe, by a parent that is gone, and by the kernel's alarm where native code never looks up.
"""

from __future__ import annotations

import atexit
import os
import pickle
import resource
import selectors
import signal
import struct
import subprocess
import sys
import threading
import time
from collections.abc import Callable
from typing import IO, Any, ParamSpec, TypeVar, cast

from .errors import FormatError

P = ParamSpec("P")
R = TypeVar("R")
MOST_BYTES = 2_000_000_000
"""Of memory, for one file and all that is read of it."""
MOST_S = 300.0
POLL_S = 0.1
LATE_S = 5
"""After that the kernel ends what the parent did not."""
LENGTH = struct.Struct("<Q")


class StoppedError(FormatError):
    """Somebody asked to stop."""

    def __init__(self, file: str) -> None:
        super().__init__(file, "reading it was stopped")


class Reader:
    """Calls functions of modules in the process apart, one at a time; any thread may stop what goes on."""

    def __init__(self, most_s: float = MOST_S, most_bytes: int = MOST_BYTES) -> None:
        self._most_s, self._most_bytes = most_s, most_bytes
        self._process: subprocess.Popen[bytes] | None = None
        self._turn = threading.Lock()
        self._stopping = threading.Event()

    def call(self, name: str, work: Callable[P, R], /, *args: P.args, **more: P.kwargs) -> R:
        """What a function of a module gives, of a file of that name. Raises `FormatError`, or `StoppedError`."""
        with self._turn:
            self._stopping.clear()
            process = self._running()
            try:
                _send(cast("IO[bytes]", process.stdin), (name, work, args, more, self._most_s))
                answer = self._answer(process, name)
            except (BrokenPipeError, EOFError):
                answer = False, self._why_gone(process, name)
            except FormatError:
                self._end()
                raise
        good, value = answer
        if not good:
            raise value
        return cast(R, value)

    def stop(self) -> None:
        """End what is being read; whoever waits for it is told."""
        self._stopping.set()

    def close(self) -> None:
        """End the process; the next call starts another."""
        self._stopping.set()
        with self._turn:
            self._end()

    def _running(self) -> subprocess.Popen[bytes]:
        if self._process is None or self._process.poll() is not None:
            command = [sys.executable, "-m", "tallmast.formats.apart", str(self._most_bytes), str(os.getpid())]
            self._process = subprocess.Popen(command, stdin=subprocess.PIPE, stdout=subprocess.PIPE)
        return self._process

    def _end(self) -> None:
        process, self._process = self._process, None
        if process is not None:
            process.kill()
            process.communicate()

    def _answer(self, process: subprocess.Popen[bytes], name: str) -> tuple[bool, Any]:
        """Waits for it, for no longer than is allowed. Raises EOFError where the process is gone."""
        out, end = cast("IO[bytes]", process.stdout), time.monotonic() + self._most_s
        got = bytearray()
        wanted = LENGTH.size
        with selectors.DefaultSelector() as waiting:
            waiting.register(out, selectors.EVENT_READ)
            while len(got) < wanted:
                if self._stopping.is_set():
                    raise StoppedError(name)
                if time.monotonic() > end:
                    raise FormatError(name, f"reading it took longer than {self._most_s:g} s", todo=SMALLER)
                if not waiting.select(POLL_S):
                    continue
                part = os.read(out.fileno(), 1 << 20)
                if not part:
                    raise EOFError
                got += part
                if wanted == LENGTH.size and len(got) >= LENGTH.size:
                    wanted += LENGTH.unpack(got[: LENGTH.size])[0]
        return cast("tuple[bool, Any]", pickle.loads(memoryview(got)[LENGTH.size :]))

    def _why_gone(self, process: subprocess.Popen[bytes], name: str) -> FormatError:
        code = process.wait()
        self._process = None
        if code == -signal.SIGALRM:
            return FormatError(name, f"reading it took longer than {self._most_s:g} s", todo=SMALLER)
        return FormatError(name, "it is damaged in a way that no reader stands", todo="Fetch or export it again")


SMALLER = "Split it, or thin it out"
reader = Reader()
"""The one that all share."""
atexit.register(reader.close)


def _send(stream: IO[bytes], what: Any) -> None:
    data = pickle.dumps(what, protocol=5)
    stream.write(LENGTH.pack(len(data)))
    stream.write(data)
    stream.flush()


def _too_much(name: str, most_bytes: int) -> FormatError:
    return FormatError(name, f"reading it takes more than {most_bytes / 1e9:g} GB of memory", todo=SMALLER)


# In the process apart


def _serve(most_bytes: int, parent: int) -> None:
    """Answer calls until there are none. What is written to the standard output by others goes to the standard error."""
    answers = os.fdopen(os.dup(1), "wb")
    os.dup2(2, 1)
    resource.setrlimit(resource.RLIMIT_DATA, (most_bytes, most_bytes))
    signal.signal(signal.SIGINT, signal.SIG_IGN)  # Ctrl+C in the terminal is the window's
    threading.Thread(target=_watch, args=(parent,), daemon=True).start()
    while len(head := sys.stdin.buffer.read(LENGTH.size)) == LENGTH.size:
        name, work, args, more, most_s = pickle.loads(sys.stdin.buffer.read(LENGTH.unpack(head)[0]))
        signal.alarm(round(most_s) + LATE_S)
        _send(answers, _outcome(name, work, args, more, most_bytes))
        signal.alarm(0)


def _outcome(
    name: str, work: Callable[..., Any], args: tuple[Any, ...], more: dict[str, Any], most_bytes: int
) -> tuple[bool, Any]:
    try:
        return True, work(*args, **more)
    except FormatError as error:
        return False, error
    except MemoryError:
        return False, _too_much(name, most_bytes)
    except Exception as error:
        return False, FormatError(name, f"it can't be read ({error})")


def _watch(parent: int) -> None:
    """End with the parent, whatever goes on."""
    while os.getppid() == parent:
        time.sleep(1.0)
    os._exit(1)


if __name__ == "__main__":
    _serve(int(sys.argv[1]), int(sys.argv[2]))
