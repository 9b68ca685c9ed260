"""Fields that ask which column of a table is what."""

from __future__ import annotations

from collections.abc import Mapping

from tallmast.formats.format import Format
from tallmast.formats.table import Table

from .fields import Field


def column_fields(form: Format, found: Table | None, taken: Mapping[str, str]) -> list[Field]:
    """A field for each thing that a column can be, with the columns that can be it; none where there is no table."""
    if found is None:
        return []
    out = []
    for role in form.roles:
        every = found.names if role.words_too else (*found.columns, *(found.clocks if role.clock else ()))
        columns = [(column, column) for column in every]
        choices: list[tuple[str, str]] = list(role.choices.items()) or columns
        if not role.needed:
            choices = [("", role.none), *choices]
        elif not taken.get(role.key) and not role.choices:
            choices = [("", "choose the column"), *choices]
        out.append(Field(role.key, role.words, choices=choices, chosen=taken.get(role.key, ""), seldom=role.seldom))
    return out
