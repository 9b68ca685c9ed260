"""Instruments that speak SCPI-99 with the common commands of IEEE 488.2, over PyVISA (socket, USB, serial)."""

from __future__ import annotations

import contextlib
import math
import threading
import time
import warnings
from collections.abc import Iterator
from typing import Any, Self

import numpy as np

from .driver import InstrumentError, RawSweep, SweepPlan

TIMEOUT_MS = 3000
LARGEST_BLOCK = 16_000_000
"""Bytes of a sweep: a million points."""
LONGEST_LINE = 65_536
"""Bytes of an answer in words or numbers."""
CHUNK = 65_536
WHOLE_S = 10.0
"""An answer that is not over by then is no answer, however busily it goes on."""


def resources() -> list[str]:
    """The addresses that PyVISA finds on this machine; PyVISA is loaded by the first call."""
    import pyvisa

    # PyVISA-py remarks on what it could look for besides, had it more packages; nobody here can act on that.
    warnings.filterwarnings("ignore", message=".*resource discovery", category=UserWarning)
    try:
        return sorted(pyvisa.ResourceManager("@py").list_resources("?*"))
    except Exception:
        return []


@contextlib.contextmanager
def _told(address: str, timeout_ms: float) -> Iterator[None]:
    """What goes wrong on the line, in a sentence."""
    import pyvisa

    try:
        yield
    except pyvisa.errors.VisaIOError as error:
        if error.error_code == pyvisa.constants.StatusCode.error_timeout:
            raise InstrumentError(
                f"no answer from {address} within {timeout_ms / 1000:g} s",
                "Look whether it is on, whether another program holds it, and whether the cable sits",
            ) from error
        raise InstrumentError(
            f"the line to {address} broke ({error.description})", "Plug it in again, then connect"
        ) from error
    except pyvisa.errors.Error as error:  # a line that was hung up on meanwhile has no session
        raise InstrumentError(f"the line to {address} is closed", "Connect again") from error
    except ConnectionRefusedError as error:
        raise InstrumentError(
            f"nothing answers at {address}", "Check the address, and that the instrument is on, then connect again"
        ) from error
    except OSError as error:
        raise InstrumentError(
            f"the line to {address} broke ({error.strerror or error})", "Plug it in again, then connect"
        ) from error


class ScpiLink:
    """One open line to an instrument: lines of text both ways, and binary blocks."""

    def __init__(self, address: str, timeout_ms: int = TIMEOUT_MS) -> None:
        self.address = address
        import pyvisa

        with _told(address, timeout_ms):
            try:
                manager = pyvisa.ResourceManager("@py")
                self._resource: Any = manager.open_resource(address, open_timeout=timeout_ms)
            except ConnectionRefusedError:
                raise
            except Exception as error:
                raise InstrumentError(
                    f"{address} can't be opened ({str(error).splitlines()[0][:80] if str(error) else type(error).__name__})",
                    "Check the address, and that nothing else holds it",
                ) from error
            self._timeout_ms: float = timeout_ms
            self._resource.timeout = timeout_ms
            self._resource.chunk_size = 1 << 20
            self._resource.write_termination = "\n"
            self._resource.read_termination = "\n"

    @contextlib.contextmanager
    def _telling(self) -> Iterator[None]:
        """What goes wrong in a sentence, and an end to it: a line that is still busy after `WHOLE_S` is hung up."""
        late = threading.Event()

        def hang_up() -> None:
            late.set()
            self.close()

        watch = threading.Timer(WHOLE_S, hang_up)
        watch.daemon = True
        watch.start()
        try:
            with _told(self.address, self._timeout_ms):
                yield
        except Exception as error:
            if not late.is_set():
                raise
            raise InstrumentError(
                f"{self.address} was still answering after {WHOLE_S:g} s, and was hung up on",
                "Switch it off and on, then connect again",
            ) from error
        finally:
            watch.cancel()

    def _some(self, most: int) -> bytes:
        """What the line has, up to so many bytes or the end of a line."""
        import pyvisa

        more_to_come = pyvisa.constants.StatusCode.success_max_count_read
        with self._resource.ignore_warning(more_to_come):
            data, _ = self._resource.visalib.read(self._resource.session, most)
        return bytes(data)

    def _line(self, question: str) -> str:
        data = b""
        while not data.endswith(b"\n"):
            data += self._some(4096)
            if len(data) > LONGEST_LINE:
                self.close()  # emptying such a line has no end
                raise self._garbled(question, f"{len(data)} bytes without an end")
        return data.decode("ascii", "strict").strip()

    def _exactly(self, count: int) -> bytes:
        data = bytearray()
        while len(data) < count:
            data += self._some(min(count - len(data), CHUNK))
        return bytes(data)

    def write(self, command: str) -> None:
        with self._telling():
            self._resource.write(command)

    def ask(self, question: str) -> str:
        """One line back. Raises `InstrumentError` where none comes in time, or none that can be read."""
        with self._telling():
            try:
                self._resource.write(question)
                return self._line(question)
            except UnicodeDecodeError as error:
                raise self._garbled(question) from error

    def name(self) -> str:
        """Who it says it is: maker and model of *IDN?."""
        parts = [part.strip() for part in self.ask("*IDN?").split(",")]
        return " ".join(part[:40] for part in parts[:2] if part and part != "0") or self.address

    def number(self, question: str) -> float:
        """The first number of the answer. Raises `InstrumentError` for words, NaN and infinities."""
        text = self.ask(question)
        try:
            value = float(text.split(",")[0])
        except ValueError as error:
            raise self._garbled(question, text) from error
        if not math.isfinite(value):
            raise self._garbled(question, text)
        return value

    def block(self, question: str) -> bytes:
        """An IEEE 488.2 definite-length block: `#`, a digit, so many digits of length, the bytes.

        Raises `InstrumentError` for another beginning, or fewer bytes than it says.
        """
        self.write(question)
        with self._telling():
            self._resource.read_termination = None
            try:
                start = self._exactly(2)
                if start[:1] != b"#" or not start[1:].isdigit() or start[1:] == b"0":
                    raise self._garbled(question, start.decode("ascii", "replace"))
                digits = self._exactly(int(start[1:]))
                if not digits.isdigit() or int(digits) > LARGEST_BLOCK:
                    raise self._garbled(question, digits.decode("ascii", "replace"))
                data = self._exactly(int(digits) + 1)
                return data[:-1]
            finally:
                with contextlib.suppress(Exception):  # it may be hung up by now
                    self._resource.read_termination = "\n"

    def complain(self, doing: str) -> None:
        """Empty the instrument's error queue; raise for what stood in it."""
        first = ""
        for _ in range(20):
            entry = self.ask("SYST:ERR?")
            code, _, words = entry.partition(",")
            try:
                if int(code) == 0:
                    break
            except ValueError as error:
                raise self._garbled("SYST:ERR?", entry) from error
            first = first or words.strip().strip('"')
        if first:
            raise InstrumentError(
                f"the instrument refuses to {doing}: “{first[:80]}”", "Change the plan, or look at its own screen"
            )

    @contextlib.contextmanager
    def patience(self, timeout_ms: int) -> Iterator[None]:
        """Wait for an answer no longer than this."""
        usual = self._timeout_ms
        with _told(self.address, timeout_ms):
            self._resource.timeout = self._timeout_ms = timeout_ms
        try:
            yield
        finally:
            self._timeout_ms = usual
            with contextlib.suppress(Exception):  # it may be hung up by now
                self._resource.timeout = usual

    def drain(self) -> None:
        """After a fault: whatever is still on its way belongs to a question nobody asks any more. A line that goes on is hung
        up."""
        left = 0
        with contextlib.suppress(Exception), self.patience(60):
            while left <= LARGEST_BLOCK:
                left += len(self._some(CHUNK))
            self.close()

    def close(self) -> None:
        with contextlib.suppress(Exception):
            self._resource.close()

    def _garbled(self, question: str, got: str = "") -> InstrumentError:
        what = f"a garbled answer to {question}" + (f": “{got[:24]}”" if got else "")
        return InstrumentError(what, "It is asked again; if it stays so, switch the instrument off and on")


def read_powers(address: str, frequency_hz: float, power_w: float = 0.4) -> tuple[float, float]:
    """(forward, reflected) power, W, from an inline meter: MEASure:POWer:FORWard?, MEASure:POWer:REFLected?.

    Raises `InstrumentError` where it does not answer, or shows no forward power.
    """
    link = ScpiLink(address)
    try:
        link.write(f"SOUR:FREQ {frequency_hz:.3f};:SOUR:POW {power_w:.6g}")
        forward, reflected = link.number("MEAS:POW:FORW?"), link.number("MEAS:POW:REFL?")
    finally:
        link.close()
    if not forward > 0 or not reflected >= 0:
        raise InstrumentError("the meter shows no forward power", "Look whether something transmits, and try again")
    return forward, reflected


class ScpiInstrument:
    """Something on a line that says who it is; `at` opens it, and closes it again where it does not answer."""

    def __init__(self, link: ScpiLink) -> None:
        self.link = link

    @classmethod
    def at(cls, address: str) -> Self:
        link = ScpiLink(address)
        try:
            made = cls(link)
            made.identify()
        except InstrumentError:
            link.close()
            raise
        return made

    def identify(self) -> str:
        return self.link.name()

    def close(self) -> None:
        self.link.close()


class ScpiAnalyzer(ScpiInstrument):
    """A one-port analyzer by SCPI-99: SENSe:FREQuency, SENSe:SWEep:POINts, SENSe:AVERage, INITiate, CALCulate:DATA?.

    Data come as a block of 64-bit reals, real and imaginary part in turn, least significant byte first.
    """

    def __init__(self, link: ScpiLink) -> None:
        super().__init__(link)
        self.plan: SweepPlan | None = None
        self._tells_warmth: bool | None = None
        self._felt: float | None = None
        self._felt_at = -1e9

    def configure(self, plan: SweepPlan) -> None:
        """Set up for a plan. Raises `InstrumentError` for one that the instrument does not follow to the point."""
        link = self.link
        link.write("*CLS")
        link.write("FORM:DATA REAL,64;:FORM:BORD SWAP;:INIT:CONT OFF")
        link.write(f"SENS:FREQ:STAR {plan.start_hz:.3f};:SENS:FREQ:STOP {plan.stop_hz:.3f}")
        link.write(f"SENS:SWE:POIN {plan.points}")
        link.write(f"SENS:AVER:COUN {plan.averages};:SENS:AVER:STAT {'ON' if plan.averages > 1 else 'OFF'}")
        link.complain("sweep as planned")
        points = int(link.number("SENS:SWE:POIN?"))
        if points != plan.points:
            raise InstrumentError(f"the instrument sweeps {points} points, not {plan.points}", f"Plan {points} points")
        self.plan = plan

    def sweep(self) -> RawSweep:
        """One sweep of the plan, Γ as shown [point]. Raises `InstrumentError` without a plan, or for broken numbers."""
        plan = self.plan
        if plan is None:
            raise InstrumentError("no sweep is planned", "Give start, stop and points first")
        try:
            # One message: two small ones would wait for each other on the network (Nagle's algorithm).
            values = np.frombuffer(self.link.block("INIT:IMM;*WAI;:CALC:DATA?"), dtype="<f8")
        except ValueError as error:
            raise InstrumentError("a sweep of broken numbers", "It is swept again") from error
        if len(values) != 2 * plan.points:
            self.link.drain()
            raise InstrumentError(
                f"a sweep of {len(values) // 2} points where {plan.points} were asked for", "It is swept again"
            )
        gamma = values[0::2] + 1j * values[1::2]
        if not np.isfinite(gamma).all():
            bad = int(np.count_nonzero(~np.isfinite(gamma)))
            raise InstrumentError(
                f"{bad} of {plan.points} points of the sweep are no numbers", "It is swept again; look for overload"
            )
        if float(np.abs(gamma).max()) > 5.0:
            raise InstrumentError(
                "five times more comes back than goes in", "Something transmits nearby, or the instrument is not ready"
            )
        return RawSweep(plan.frequency_hz, gamma, self._warmth())

    def _warmth(self) -> float | None:
        """Inner temperature, °C, where the instrument answers to DIAGnostic:TEMPerature?; asked in vain only once."""
        if self._tells_warmth is None:
            with self.link.patience(400):
                try:
                    self.link.number("DIAG:TEMP?")
                    self._tells_warmth = True
                except InstrumentError:
                    self._tells_warmth = False
                    self.link.drain()
                    self.link.write("*CLS")
        if self._tells_warmth and time.monotonic() - self._felt_at > 1.0:
            self._felt, self._felt_at = self.link.number("DIAG:TEMP?"), time.monotonic()
        return self._felt
