"""The sheet of Touchstone files: whose they are, and which port."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

from ..session import Session
from ..sheets.entry import Form, Later
from ..sheets.fields import Field
from .sheets import sweep_fields, sweep_settings


def bring_sweep_form(
    session: Session,
    names: Sequence[str],
    ports: int,
    whose: Sequence[Field],
    keep_all: Callable[[dict[str, Any], int, dict[str, Any]], Later],
) -> Form:
    """Where dropped Touchstone files belong, and what lay between analyzer and antenna; `whose`: the fields that ask for the antenna."""
    fields = [*whose]
    if ports > 1:
        choices = [(port, f"port {port} (S{port}{port})") for port in range(1, ports + 1)]
        fields.append(Field("port", "Port", choices=choices, chosen=1))
    fields += sweep_fields(session)

    def kept(v: dict[str, Any]) -> Later:
        return keep_all(v, v.get("port") or 1, sweep_settings(v, session))

    what = f"{len(names)} sweeps" if len(names) > 1 else names[0]
    note = "Settings are those of the last sweep. The state is the antenna’s present one."
    return Form(f"Bring in {what}", fields, kept, note, keep_words="Bring in")
