"""Parts of records that take several fields of a sheet: a connector, a cable in between."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

from tallmast.frozen import Frozen
from tallmast.notebook.records import Cable, Connector, Part
from tallmast.physics.constants import SPEED_OF_LIGHT
from tallmast.units import quantity, read

from .fields import Field
from .keeping import text_of

FAMILIES = ("", "SMA", "N", "BNC", "TNC", "UHF", "F", "MCX", "MMCX", "U.FL")
HALVES = [
    (("plug", "pin"), "plug (inner thread) with pin"),
    (("jack", "socket"), "jack (outer thread) with socket"),
    (("plug", "socket"), "plug with socket (reverse)"),
    (("jack", "pin"), "jack with pin (reverse)"),
]


class PartFields(Frozen, eq=True):
    """`fields(key, words, part)` are those of a part that is there already, or None; `of(values, key, part)` is what they say."""

    fields: Callable[[str, str, Any], Sequence[Field]]
    of: Callable[[dict[str, Any], str, Any], Part | None]


def connector_fields(key: str, words: str, old: Connector | None) -> list[Field]:
    """Family, and body with contact."""
    families = [(f, f or "not noted") for f in FAMILIES]
    half = (old.body, old.contact) if old else None
    return [
        Field(f"{key}_family", f"{words}: family", choices=families, chosen=old.family if old else ""),
        Field(f"{key}_half", f"{words}: body and contact", choices=HALVES, chosen=half),
    ]


def connector_of(v: dict[str, Any], key: str, old: Connector | None) -> Connector | None:
    """The connector that the fields say; None where its family is not noted."""
    if not v[f"{key}_family"]:
        return None
    body, contact = v[f"{key}_half"]
    if old is not None:
        return old.revised(family=v[f"{key}_family"], body=body, contact=contact)
    return Connector(family=v[f"{key}_family"], body=body, contact=contact)


def cable_fields(key: str, words: str, cable: Cable | None) -> list[Field]:
    """What lies between the instrument and the antenna."""
    cable = cable or Cable()
    loss, u, length = cable.loss_db or None, cable.loss_u_db or None, cable.length_m or None

    def field(key: str, words: str, of: quantity.Quantity, value: float | None, hint: str) -> Field:
        return Field(key, words, of.read, of.echo, text_of(value, of.write), hint)

    return [
        field("loss", f"{words}, loss one way", quantity.LOSS, loss, "0.42 dB; empty: none"),
        field("loss_u", "Uncertainty of that loss", quantity.U_DB, u, "0.05 dB"),
        field("length", "Its length", quantity.LENGTH, length, "1.2 m"),
        Field("delay", "or its delay, one way", read.delay, quantity.DELAY.echo, hint="6.1 ns"),
        field("velocity", "Its velocity factor", quantity.FACTOR, cable.velocity_factor, "0.66"),
    ]


def cable_of(v: dict[str, Any], key: str = "", old: Cable | None = None) -> Cable:
    """The cable from the fields above. A delay, where one is given, settles the length; a loss that was not touched
    keeps its curve over frequency."""
    velocity = v["velocity"] or Cable().velocity_factor
    length = v["length"] or 0.0
    if v["delay"] is not None:
        length = v["delay"] * velocity * SPEED_OF_LIGHT
    untouched = old is not None and v["loss"] == old.loss_db
    return Cable(
        loss_db=v["loss"] or 0.0,
        loss_u_db=v["loss_u"] or 0.0,
        length_m=length,
        velocity_factor=velocity,
        root_db=old.root_db if old and untouched else None,
        linear_db=old.linear_db if old and untouched else 0.0,
    )


PARTS: dict[type[Part], PartFields] = {
    Connector: PartFields(connector_fields, connector_of),
    Cable: PartFields(cable_fields, cable_of),
}
