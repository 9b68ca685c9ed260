"""Sheets for files that hold sweeps: whose they are, and which column is what."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

from tallmast.formats.sweep_table import ALONE, MEANINGS, UNITS, Mapping, SweepTable
from tallmast.notebook.records import Antenna
from tallmast.units import show

from ..entry import Field, FieldError, Form, Later
from ..records import antenna_choices
from ..session import Session
from .sheets import sweep_fields, sweep_settings


def bring_sweep_form(
    session: Session, names: Sequence[str], ports: int, keep_all: Callable[[Antenna, int, dict[str, Any]], Later]
) -> Form:
    """Where dropped Touchstone files belong, and what lay between analyzer and antenna."""
    antennas = antenna_choices(session)
    focus = session.focus_antenna
    several = len(names) > 1
    fields = [
        Field("antenna", "They are of" if several else "It is of", choices=antennas, chosen=focus.id if focus else None)
    ]
    if ports > 1:
        choices = [(port, f"port {port} (S{port}{port})") for port in range(1, ports + 1)]
        fields.append(Field("port", "Port", choices=choices, chosen=1))
    fields += sweep_fields(session)

    def kept(v: dict[str, Any]) -> Later:
        antenna = session.evidence.antenna(v["antenna"])
        if antenna is None:
            raise FieldError("antenna", "Put the antenna on the shelf first.")
        return keep_all(antenna, v.get("port") or 1, sweep_settings(v, session))

    what = f"{len(names)} sweeps" if several else names[0]
    note = "Settings are those of the last sweep. The state is the antenna’s present one."
    return Form(f"Bring in {what}", fields, kept, note, keep_words="Bring in")


def bring_table_form(
    session: Session, name: str, found: SweepTable, keep_it: Callable[[Antenna, Mapping, dict[str, Any]], Later]
) -> Form:
    """A sweep as a table: whose it is, which column is what; guessed, shown, correctable."""
    focus, guessed = session.focus_antenna, found.mapping
    columns = [(c, c) for c in found.columns]
    fields = [
        Field("antenna", "It is of", choices=antenna_choices(session), chosen=focus.id if focus else None),
        Field("frequency", "Frequency", choices=columns, chosen=guessed.frequency),
        Field("unit", "in", choices=[(u, u) for u in UNITS], chosen=guessed.unit),
        Field("meaning", "It holds", choices=list(MEANINGS.items()), chosen=guessed.meaning),
        Field("first", "First of these", choices=columns, chosen=guessed.first),
        Field("second", "Second, if there is one", choices=[("", "none"), *columns], chosen=guessed.second),
        *sweep_fields(session),
    ]

    def kept(v: dict[str, Any]) -> Later:
        antenna = session.evidence.antenna(v["antenna"])
        if antenna is None:
            raise FieldError("antenna", "Put the antenna on the shelf first.")
        two = v["meaning"] not in ALONE
        if two and v["second"] in ("", v["first"], v["frequency"]):
            raise FieldError(
                "second", f"{show.upper_first(MEANINGS[v['meaning']])} takes two columns: choose the second."
            )
        mapping = Mapping(v["frequency"], v["unit"], v["meaning"], v["first"], v["second"] if two else "")
        return keep_it(antenna, mapping, sweep_settings(v, session))

    note = "The columns were guessed by their names and numbers; change what is wrong." + "".join(
        f" {show.upper_first(n)}." for n in found.reflection.notes
    )
    return Form(f"Bring in {name}", fields, kept, note, keep_words="Bring in")
