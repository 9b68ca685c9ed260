"""The fields of a sheet that say which connector something has."""

from __future__ import annotations

from typing import Any

from tallmast.notebook.records import Connector

from .entry import Field

FAMILIES = ("", "SMA", "N", "BNC", "TNC", "UHF", "F", "MCX", "MMCX", "U.FL")


def connector_of(values: dict[str, Any], which: str, old: Connector | None) -> Connector | None:
    """The connector that the fields say; None where its family is not noted."""
    if not values[f"{which}_family"]:
        return None
    body, contact = values[f"{which}_half"]
    changes = {"family": values[f"{which}_family"], "body": body, "contact": contact}
    return old.revised(**changes) if old else Connector(**changes)


def connector_fields(which: str, words: str, old: Connector | None) -> list[Field]:
    """Family, and body with contact."""
    halves = [
        (("plug", "pin"), "plug (inner thread) with pin"),
        (("jack", "socket"), "jack (outer thread) with socket"),
        (("plug", "socket"), "plug with socket (reverse)"),
        (("jack", "pin"), "jack with pin (reverse)"),
    ]
    families = [(f, f or "not noted") for f in FAMILIES]
    return [
        Field(f"{which}_family", f"{words}: family", choices=families, chosen=old.family if old else ""),
        Field(
            f"{which}_half",
            f"{words}: body and contact",
            choices=halves,
            chosen=(old.body, old.contact) if old else None,
        ),
    ]
