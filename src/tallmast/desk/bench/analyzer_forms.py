"""Sheets for the analyzer: which one, what to sweep, its standards, a cable, a cut."""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import Any

from tallmast.findings.cautions import for_activity
from tallmast.instruments.driver import SweepPlan
from tallmast.notebook.records import StandardSet
from tallmast.procedures.practising import PRACTICE
from tallmast.units import read, show
from tallmast.units.quantity import BAND, COUNT, DECIBEL, DELAY, FREQUENCY, LOSS, NUMBER, SIZE, Quantity

from ..sheets.entry import Form
from ..sheets.fields import Field, FieldError, Shown
from ..sheets.keeping import field_for

FRINGE_SCALES = (1e-15, 1e-27, 1e-36, 1e-45)
LOAD_WORDS = "How good the load is known to be, return loss"
CUT = Quantity(SIZE.read, show.small_length, show.small_length)


def plan_form(plan: SweepPlan, use: Callable[[SweepPlan], None]) -> Form:
    """Start and stop, or centre and span; points and averages."""
    fields = [
        field_for("span", "From and to", BAND, (plan.start_hz, plan.stop_hz), "840–900 MHz"),
        field_for("centre", "or centre", FREQUENCY, hint="869 MHz"),
        field_for("width", "and span", FREQUENCY, hint="60 MHz"),
        field_for("points", "Points", COUNT, plan.points, "401", True),
        field_for("averages", "Averages", COUNT, plan.averages, "1", True),
    ]

    def kept(v: dict[str, Any]) -> bool:
        low, high = v["span"] or (plan.start_hz, plan.stop_hz)
        if v["centre"] is not None or v["width"] is not None:
            centre, width = v["centre"] or (low + high) / 2, v["width"] or high - low
            low, high = centre - width / 2, centre + width / 2
        try:
            use(SweepPlan(low, high, v["points"], v["averages"]))
        except ValueError as error:
            raise FieldError("span", f"{str(error)[:1].upper()}{str(error)[1:]}.") from error
        return True

    return Form(
        "The sweep", fields, kept, "A calibration holds only inside the range over which it was taken.", "Sweep so"
    )


def _fringe(text: str) -> list[float]:
    """C0 to C3 in F, F/Hz, F/Hz², F/Hz³ from numbers as they stand on the leaflets of standards."""
    expected = "one to four numbers, such as 49; 0; 0; 0"
    parts = [part for part in re.split(r"[;\s]+", read.clean(text)) if part]
    if not 1 <= len(parts) <= 4:
        raise read.UnitError(expected, text)
    return [read.number(part, expected) * scale for part, scale in zip(parts, FRINGE_SCALES, strict=False)]


def standards_form(old: StandardSet, use: Callable[[StandardSet], bool]) -> Form:
    """What open, short and load really are. Sweeps are kept raw: a better definition mends old ones."""
    fringe = "; ".join(f"{c / scale:g}" for c, scale in zip(old.open_fringe_f, FRINGE_SCALES, strict=False))
    fields = [
        Field("name", "Name of the set", read.plain, initial=old.name, hint="brown box", needed=True),
        Field(
            "fringe",
            "Open: capacitance C0 in fF, then C1 to C3 in 10⁻²⁷ F/Hz, 10⁻³⁶ F/Hz², 10⁻⁴⁵ F/Hz³",
            _fringe,
            lambda v: "; ".join(f"{c:.3g}" for c in v),
            Shown(fringe, list(old.open_fringe_f)) if fringe else "",
            "49; empty: none",
        ),
        field_for("open", "Open: its offset, one way", DELAY, old.open_delay_s or None, "31.8 ps"),
        field_for("short", "Short: its offset, one way", DELAY, old.short_delay_s or None, "31.8 ps"),
        field_for("offset_loss", "Loss of those offsets at 1 GHz", LOSS, old.delay_loss_db_at_1ghz or None, "0.01 dB"),
        field_for("ohm", "Load, ohm", NUMBER, old.load_ohm, "50", True),
        field_for("load_db", LOAD_WORDS, DECIBEL, old.load_return_loss_db, "40 dB", True),
    ]

    def kept(v: dict[str, Any]) -> bool:
        for key, words in (("ohm", "A load has a resistance"), ("load_db", "A return loss is")):
            if v[key] <= 0:
                raise FieldError(key, f"{words} above zero.")
        return use(
            StandardSet(
                name=v["name"],
                open_fringe_f=v["fringe"] or [],
                open_delay_s=v["open"] or 0.0,
                short_delay_s=v["short"] or 0.0,
                delay_loss_db_at_1ghz=v["offset_loss"] or 0.0,
                load_ohm=v["ohm"],
                load_return_loss_db=v["load_db"],
            )
        )

    note = "The load decides how small a reflection can be told from a match. Every sweep under this set is worked out anew."
    return Form("The standards", fields, kept, note)


def cut_off_form(advised: str, cut: Callable[[float], bool]) -> Form:
    """How much was cut off each part."""
    fields = [field_for("cut", "Cut off each part", CUT, hint="0.7 mm", needed=True)]

    def kept(v: dict[str, Any]) -> bool:
        if not 0 < v["cut"] < 0.5:
            raise FieldError("cut", "A cut is above zero and under half a metre.")
        return cut(v["cut"])

    return Form("A cut", fields, kept, f"{advised} Wire can’t be put back: half first, and file, don’t snip.", "Cut")


def connect_form(
    found: list[str], drivers: list[str], address: str, use: Callable[[str, str], None], broken: list[str]
) -> Form:
    """Which analyzer: the practice bench, one that was found, or an address."""
    choices = [(PRACTICE, "the practice bench, in this program"), *((a, a) for a in found)]
    fields = [
        Field("found", "Found", choices=choices, chosen=address if address in found else PRACTICE),
        Field(
            "address",
            "or its address",
            initial="" if address in found else address,
            hint="TCPIP0::192.0.2.7::5025::SOCKET",
        ),
        Field("driver", "Driver", choices=[(d, d) for d in drivers], chosen="SCPI"),
    ]

    def kept(v: dict[str, Any]) -> bool:
        use(v["address"] or v["found"], v["driver"])
        return True

    note = f"{for_activity('connect an analyzer')} By network, USB or serial line, in VISA’s way of writing."
    note += "".join(f" {words}." for words in broken)
    return Form("The analyzer", fields, kept, note, "Connect")
