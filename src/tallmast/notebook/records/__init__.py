"""What a notebook holds: one class a kind of record.

A record is a fact as somebody entered, measured or imported it; nothing computed is kept. SI units, or the
unit in the field's name. Records are frozen: an edit is a new revision with the same `id` (see `store`).
"""

from __future__ import annotations

import msgspec

from .base import Finite, NotNegative, Part, Positive, Record, new_id, to_json
from .bench import (
    Cable,
    CableSweep,
    Calibration,
    FarEndOfCable,
    Fixture,
    MeterReading,
    Qualification,
    StandardCheck,
    StandardSet,
    Sweep,
)
from .field import DistanceNote, Latitude, ListeningEnd, Log, Longitude, Place, Reading, Run, RunEnd, RunKind
from .levels import (
    At,
    Averaging,
    Chain,
    Comparison,
    DisplayRun,
    DisplayScale,
    Emitter,
    FarEnd,
    GainTable,
    NoiseSite,
    Pad,
    PadCheck,
    Piece,
    PieceType,
    Placed,
    Radio,
    Spell,
)
from .pattern import Cut
from .shelf import Antenna, AntennaKind, Body, Claim, ClaimQuantity, Connector, Contact, Polarization, Question, State

KINDS: dict[str, type[Record]] = {
    model.kind: model
    for model in (
        Question,
        Antenna,
        Claim,
        Piece,
        Radio,
        Emitter,
        NoiseSite,
        DisplayRun,
        Comparison,
        PadCheck,
        GainTable,
        Fixture,
        Calibration,
        StandardCheck,
        Qualification,
        CableSweep,
        Sweep,
        MeterReading,
        Chain,
        FarEnd,
        Cut,
        Place,
        DistanceNote,
        Run,
        Reading,
        Log,
    )
}


def from_json(kind: str, body: str) -> Record:
    """A record as it was kept. Raises `KeyError` for a kind that there is not, `ValueError` for a body that is not one."""
    return msgspec.json.decode(body, type=KINDS[kind])


__all__ = [
    "KINDS",
    "Antenna",
    "AntennaKind",
    "At",
    "Averaging",
    "Body",
    "Cable",
    "CableSweep",
    "Calibration",
    "Chain",
    "Claim",
    "ClaimQuantity",
    "Comparison",
    "Connector",
    "Contact",
    "Cut",
    "DisplayRun",
    "DisplayScale",
    "DistanceNote",
    "Emitter",
    "FarEnd",
    "FarEndOfCable",
    "Finite",
    "Fixture",
    "GainTable",
    "Latitude",
    "ListeningEnd",
    "Log",
    "Longitude",
    "MeterReading",
    "NoiseSite",
    "NotNegative",
    "Pad",
    "PadCheck",
    "Part",
    "Piece",
    "PieceType",
    "Place",
    "Placed",
    "Polarization",
    "Positive",
    "Qualification",
    "Question",
    "Radio",
    "Reading",
    "Record",
    "Run",
    "RunEnd",
    "RunKind",
    "Spell",
    "StandardCheck",
    "StandardSet",
    "State",
    "Sweep",
    "from_json",
    "new_id",
    "to_json",
]
