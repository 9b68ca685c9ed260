"""The part of `docs/notebook-format.md` that follows from the records: every kind, its fields, its columns.

`python -m tallmast.notebook.describe docs/notebook-format.md` writes it anew; a test holds that it is up to date.
"""

from __future__ import annotations

import ast
import inspect
import sys
import textwrap
from pathlib import Path
from typing import Any, get_args, get_origin, get_type_hints

from .records import KINDS, Part
from .records.asked import asked_of

COMMON = {
    "series_id": "its columns",
    "raw_sha256": "the file it came in, by its SHA-256",
    "source": "that file's name, or the instrument",
    "taken_at": "ISO 8601, UTC",
    "started_at": "ISO 8601, UTC",
    "at": "ISO 8601, UTC",
    "warmth_k": "of the analyzer, kelvin above its first reading",
}
"""What is the same in every kind."""

BEGIN, END = "<!-- what follows is made from the records -->", "<!-- made from the records, to here -->"


def _remarks(model: type[Part]) -> dict[str, str]:
    """What stands under an attribute in its class, by attribute."""
    tree = ast.parse(textwrap.dedent(inspect.getsource(model))).body[0]
    assert isinstance(tree, ast.ClassDef)
    out = {}
    for field, remark in zip(tree.body, tree.body[1:], strict=False):
        if isinstance(field, ast.AnnAssign) and isinstance(field.target, ast.Name):
            text = remark.value.value if isinstance(remark, ast.Expr) and isinstance(remark.value, ast.Constant) else ""
            out[field.target.id] = " ".join(str(text).split())
    return out


def _type(hint: Any, parts: list[type[Part]]) -> str:
    """A type in words that somebody with another language understands."""
    if isinstance(hint, type) and issubclass(hint, Part):
        if hint not in parts:
            parts.append(hint)
        return hint.__name__
    if hint is type(None):
        return "null"
    origin, inside = get_origin(hint), get_args(hint)
    if origin is None:
        return {"str": "text", "float": "number", "int": "whole number", "bool": "true or false"}[hint.__name__]
    if origin is list:
        return f"list of {_type(inside[0], parts)}"
    if origin is dict:
        return "object"
    if all(isinstance(value, str) for value in inside):
        return " · ".join(f"`{value}`" if value else "empty" for value in inside)
    return " or ".join(_type(one, parts) for one in inside)


def _fields(model: type[Part], parts: list[type[Part]]) -> list[str]:
    remarks, words = _remarks(model), {f.attribute: f.asked.words for f in asked_of(model)}
    hints = get_type_hints(model)
    lines = ["| field | holds | meaning |", "| --- | --- | --- |"]
    for name in model.__struct_fields__:
        if name not in remarks:
            continue  # an id, as every record has one
        meaning = remarks[name] or words.get(name) or COMMON.get(name, "")
        lines.append(f"| {name} | {_type(hints[name], parts)} | {meaning.replace('|', '∣')} |")
    return lines


def text() -> str:
    """All kinds of record in Markdown, and after them the parts that stand inside some."""
    parts: list[type[Part]] = []
    lines = []
    for kind, model in KINDS.items():
        summary = " ".join((inspect.getdoc(model) or "").split())
        lines += [f"### {kind}", "", summary, "", *_fields(model, parts), ""]
        if model.series:
            columns = "; ".join(f"`{name}`{f' ({what})' if what else ''}" for name, what in model.series.items())
            lines += [f"Its columns: {columns}.", ""]
    for part in parts:  # grows while it is gone through
        summary = " ".join((inspect.getdoc(part) or "").split())
        lines += [f"### {part.__name__}, inside others", "", summary, "", *_fields(part, parts), ""]
    return "\n".join(lines).rstrip()


def within(document: str) -> str:
    """A document with its described part made anew."""
    before, _, rest = document.partition(BEGIN)
    _, _, after = rest.partition(END)
    return f"{before}{BEGIN}\n\n{text()}\n\n{END}{after}"


if __name__ == "__main__":
    path = Path(sys.argv[1])
    path.write_text(within(path.read_text(encoding="utf-8")), encoding="utf-8")
