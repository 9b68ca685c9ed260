"""The sheet of a table that comes in: whose it is, what it holds, and which of its columns is what."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from typing import Any, Protocol

import numpy as np

from tallmast.formats import sniff, table
from tallmast.formats.arrived import Arrived, read_as, shape_of
from tallmast.formats.format import Format, Role
from tallmast.formats.text import decode
from tallmast.frozen import Frozen
from tallmast.notebook.entry import Entry
from tallmast.units import show

from ..session import Session
from ..sheets.columns import column_fields
from ..sheets.entry import Form, Later
from ..sheets.fields import Field, FieldError

EXCERPT_LINES = 5


class Memory(Protocol):
    """Remembers what a person said of tables of a shape."""

    def correction(self, shape: str) -> tuple[str, dict[str, str]] | None: ...
    def correct(self, shape: str, kind: str, columns: Mapping[str, str]) -> None: ...


class Owner(Frozen, eq=True):
    """Whose a table of some kind is: the rung it is asked on, the fields, and the entry that is made of what was read.

    `of` reads the fields and raises `FieldError`; what it returns makes the entry.
    """

    rung: str
    fields: Callable[[Session], Sequence[Field]]
    of: Callable[[Session, dict[str, Any], Arrived], Callable[[Any], Entry]]
    note: str = ""
    said: Callable[[Session, Any], str] = lambda session, read: ""
    """What is told of something read, before it is kept."""
    focused: bool = False
    """Whether the antenna that it is of comes into focus."""


def excerpt(data: bytes, name: str, found: table.Table) -> str:
    """The first lines of a table, as they are written."""
    lines = decode(table.head(data), name).splitlines()
    over = found.top_line - 1 if found.above else 0
    return "\n".join(line[:200] for line in lines[over : over + EXCERPT_LINES])


SPARKS = "▁▂▃▄▅▆▇█"


def sparks(found: table.Table) -> str:
    """A small picture of each column of numbers, in one line each: how it goes over its first rows."""
    out = []
    for name, values in list(found.columns.items())[:8]:
        known = values[np.isfinite(values)]
        if len(known) < 2:
            continue
        picked = values[np.linspace(0, len(values) - 1, min(len(values), 12)).astype(int)]
        low, span = float(known.min()), float(np.ptp(known)) or 1.0
        drawn = "".join(
            SPARKS[min(int((v - low) / span * len(SPARKS)), len(SPARKS) - 1)] if np.isfinite(v) else " " for v in picked
        )
        out.append(f"{drawn} {name[:18]}")
    return "\n".join(out)


def table_form(session: Session, arrived: Arrived, owners: Mapping[str, Owner], memory: Memory, kind: str = "") -> Form:
    """The sheet for a kind of table, that which was recognised or the one that a person chose instead."""
    kind = kind or arrived.kind
    data, name = arrived.raw.data, arrived.path.name
    form, owner = sniff.FORMATS[kind], owners[kind]
    as_read = kind == arrived.kind and arrived.read is not None
    found = table.preview_or_names(data, name) if form.roles else None
    remembered = memory.correction(shape_of(found)) if found is not None else None
    taken = _begin(form, arrived, found, remembered, as_read)
    fields = [*owner.fields(session), *column_fields(form, found, taken)]
    if found is not None:
        kinds = [(row.kind, row.words) for row in sniff.TABLES]
        fields.append(Field("kind", "It holds", choices=kinds, chosen=kind))

    def kept(v: dict[str, Any]) -> Later:
        entry = owner.of(session, v, arrived)
        chosen = {role.key: v[role.key] or "" for role in form.roles}
        for role in form.roles:
            if role.needed and not chosen[role.key]:
                raise FieldError(role.key, f"{role.words}: choose the column.")
        if found is not None and (not as_read or chosen != _complete(form, arrived.taken)):
            memory.correct(shape_of(found), kind, chosen)

        def keep(read: Any) -> Later:
            made = entry(read)
            return session.later(made, lambda: _look_at(session, owner.focused, made))

        if as_read and chosen == _complete(form, arrived.taken):
            return (
                keep(arrived.read)
                if arrived.whole is None
                else session.read_first(f"Reading {name}", arrived.whole, keep)
            )
        columns = {key: column for key, column in chosen.items() if column or key in _optional(form)}
        return session.read_first(f"Reading {name} again", lambda: read_as(form, arrived.raw, columns), keep)

    return Form(
        f"Bring in {name}",
        fields,
        kept,
        lambda: _note(session, owner, arrived, as_read, remembered is not None, form.roles, taken, found),
        keep_words="Bring in",
        excerpt=f"{excerpt(data, name, found)}\n\n{sparks(found)}" if found is not None else "",
        own_words=frozenset({"kind", *(role.key for row in sniff.TABLES for role in row.roles)}),
        remade=("kind", lambda other: table_form(session, arrived, owners, memory, other))
        if found is not None
        else None,
    )


def _look_at(session: Session, focused: bool, made: Entry) -> None:
    """Put the antenna in focus that something was brought in of; of several the first, unless one of them is in focus already."""
    of = [record.antenna_id for record in made.records if hasattr(record, "antenna_id")]
    focus = session.focus_antenna
    if of and (focused or focus is None or focus.id not in of):
        session.focus(of[0])


def _optional(form: Format) -> set[str]:
    return {role.key for role in form.roles if not role.needed}


def _complete(form: Format, taken: Mapping[str, str]) -> dict[str, str]:
    """A mapping with every role in it, those without a column too."""
    return {role.key: taken.get(role.key, "") for role in form.roles}


def _begin(
    form: Format,
    arrived: Arrived,
    found: table.Table | None,
    remembered: tuple[str, dict[str, str]] | None,
    as_read: bool,
) -> Mapping[str, str]:
    """What stands in the fields first: as it was read, as it was corrected the last time, or as it looks."""
    if as_read:
        return arrived.taken
    if found is None:
        return {}
    if remembered is not None and remembered[0] == form.kind:
        return remembered[1]
    return form.guess(found)


def _note(
    session: Session,
    owner: Owner,
    arrived: Arrived,
    as_read: bool,
    remembered: bool,
    roles: Sequence[Role],
    taken: Mapping[str, str],
    found: table.Table | None,
) -> str:
    parts = [owner.note]
    if as_read:
        parts.append(owner.said(session, arrived.read))
    if found is not None and found.above:
        parts.append(f"{show.upper_first(show.count(found.above, 'line'))} over the table passed over.")
    if arrived.trouble and not as_read:
        parts.append(f"It could not be read as it looks: {arrived.trouble}.")
    if remembered:
        parts.append("Columns as you chose them the last time for such a table.")
    elif roles and all(taken.get(role.key) for role in roles if role.needed):
        parts.append("The columns were guessed by their names and numbers; change what is wrong.")
    elif roles:
        parts.append("Say which column is what.")
    if as_read:
        parts += [f"{show.upper_first(n)}." for n in arrived.notes]
    return " ".join(part for part in parts if part)
