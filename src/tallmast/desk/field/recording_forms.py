"""Sheets of recordings: whose run it is, who listened, what is usable, and the marks along it."""

from __future__ import annotations

from typing import Any

import numpy as np

from tallmast.formats.recording import KEYS, RecordingFile
from tallmast.notebook.entry import Entry, RawFile, new_series
from tallmast.notebook.records import LISTENING_ENDS, RecordedColumn, Recording, Run
from tallmast.notebook.records.lists import MARKS
from tallmast.units import show
from tallmast.units.quantity import NUMBER

from ..session import Session
from ..sheets.fields import Field
from ..sheets.record_sheet import RecordSheet


def recording_fields(session: Session) -> list[Field]:
    """The end, the limit and the marks; limit and marks as the recording before had them."""
    before = session.evidence.all(Recording)
    last = before[-1] if before else None
    usable = f"{last.usable:g}" if last is not None and last.usable is not None else ""
    return [
        Field("end", "Who listened", choices=list(LISTENING_ENDS.items()), chosen=last.end if last else "away"),
        Field(
            "usable",
            "Usable from (of a delay: up to)",
            NUMBER.read,
            NUMBER.echo,
            usable,
            "5; in the quantity’s own unit",
        ),
        Field("marks", "Marks along it", MARKS.read, MARKS.echo, "", "0 start; 40 s turn; 1:05 trees"),
    ]


def recording_settings(v: dict[str, Any]) -> dict[str, Any]:
    return {"end": v["end"], "usable": v["usable"], "marks": v["marks"] or []}


def recording_entry(run: Run, settings: dict[str, Any], read: RecordingFile, raw: RawFile) -> Entry:
    """A recording under its run."""
    key, columns = new_series({"time_s": read.time_s, **{k: np.ascontiguousarray(v) for k, v in read.values.items()}})
    named = [
        RecordedColumn(key=k, name=read.taken[k], read_on=read.read_on[k], heard_at=read.heard_at[k])  # type: ignore[arg-type]
        for k, _ in KEYS
        if k in read.values
    ]
    record = Recording(run_id=run.id, series_id=key, columns=named, source=raw.name, raw_sha256=raw.sha256, **settings)
    length = show.count(round(float(read.time_s[-1])), "second")
    notes = f" ({'; '.join(dict.fromkeys(read.notes))})" if read.notes else ""
    label = f"Run {run.number}: recording {raw.name}, {length}{notes}"
    return Entry(label, [record], raw=[raw], series=columns)


RECORDING = RecordSheet(
    Recording,
    "A recording",
    words=lambda recording, old, evidence: f"recording {recording.source} of {evidence.title(recording.run_id)}",
    opened=lambda recording, evidence: f"Recording {recording.source}",
)
