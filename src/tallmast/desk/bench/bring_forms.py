"""The sheet of Touchstone files: whose they are, and which port."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

from tallmast.notebook.records import Antenna

from ..session import Session
from ..sheets.entry import Form, Later
from ..sheets.fields import Field, FieldError
from ..sheets.keeping import antenna_choices
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
