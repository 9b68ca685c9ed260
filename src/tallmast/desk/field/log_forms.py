"""Sheets of logs: which run a file belongs to, which of its columns is what, and what was kept of it."""

from __future__ import annotations

from contextlib import suppress
from typing import Any

import numpy as np

from tallmast.formats import log, table
from tallmast.formats.errors import FormatError
from tallmast.notebook.entry import Entry, RawFile, new_series
from tallmast.notebook.records import Beside, DisplayRun, Log, Run
from tallmast.units import show

from ..session import Session
from ..sheets.columns import column_fields
from ..sheets.entry import Form, Later
from ..sheets.fields import Field, FieldError
from ..sheets.keeping import history, keep, made, reason_fields, remover
from ..sheets.record_sheet import choices_of, declared_fields, values_of

OF_A_LOG = "It is the log of run"


def run_field(session: Session, chosen: str | None) -> Field:
    """Which run a log is of."""
    return Field("run", OF_A_LOG, choices=choices_of(session, "run"), chosen=chosen)


TOLD = ("heights", "fix_u_m", "behind", "lost")
"""What is asked of a track beside its run and its columns."""


def told_fields(session: Session, old: Log | None) -> list[Field]:
    """What its heights count from, how good a fix is, and what stood between: as the log before had it."""
    logs = session.evidence.all(Log)
    before = {name: getattr(logs[-1], name) for name in TOLD[:2]} if logs and old is None else {}
    declared = dict(declared_fields(session, Log, old, before))
    return [field for name in TOLD for field in declared[name]]


def told_settings(v: dict[str, Any]) -> dict[str, Any]:
    return values_of(Log, None, v, names=TOLD)


def receiver_field(session: Session, chosen: str) -> Field:
    """Which display it was read on, of those that were stepped."""
    known = dict.fromkeys(run.receiver for run in session.evidence.all(DisplayRun))
    choices = [("", "none that was stepped"), *((name, name) for name in known)]
    return Field("receiver", "If it is no dBm: read on the display of", choices=choices, chosen=chosen, seldom=True)


def _chosen(session: Session, v: dict[str, Any]) -> tuple[Run, dict[str, str]]:
    """The run, and the column of each quantity; an empty one is to be left out."""
    run = session.evidence.get(Run, v["run"])
    if run is None:
        raise FieldError("run", "Note the run first: which antenna, which power (R).")
    return run, {role.key: v[role.key] or "" for role in log.FORMAT.roles if role.key in v}


def log_entry(
    run: Run,
    read: log.LogFile,
    raw: RawFile,
    receiver: str,
    told: dict[str, Any],
    old: Log | None = None,
    reason: str | None = None,
) -> Entry:
    """A log under its run; in place of an old reading of the same file, where there is one."""
    series_id, columns = new_series({k: np.ascontiguousarray(v) for k, v in read.columns.items()})
    record = made(
        Log,
        old,
        run_id=run.id,
        series_id=series_id,
        source=raw.name,
        raw_sha256=raw.sha256,
        mapping=read.mapping,
        read_on=read.read_on,
        receiver="" if read.read_on == log.DBM else receiver,
        beside=[Beside(key=key, name=log.beside_name(read.mapping[key])) for key in log.BESIDE if key in read.columns],
        **told,
    )
    points = show.count(len(read.columns["latitude_deg"]), "point")
    notes = f" ({'; '.join(dict.fromkeys(read.notes))})" if read.notes else ""
    label = f"{'Corrected: run' if old is not None else 'Run'} {run.number}: log {raw.name}, {points}{notes}"
    return Entry(label, [record], reason=reason, raw=[raw], series=columns)


def log_form(session: Session, old: Log) -> Form:
    """A log that was brought in: its run, and how its columns are read. The file stays as it came."""
    raw = session.notebook.raw(old.raw_sha256) if session.notebook is not None and old.raw_sha256 else None
    found = None
    if raw is not None and "latitude_deg" in old.mapping:  # a table; a GPX track has no columns to choose
        with suppress(FormatError):  # a newer reader refuses what an older one took: it can still be moved or taken out
            found = table.preview(raw.data, raw.name)
    before = {"level as": old.read_on, **old.mapping}
    points = len(session.evidence.series(old.series_id)["latitude_deg"])
    note = f"{show.upper_first(show.count(points, 'point'))}."

    def kept(v: dict[str, Any]) -> bool | Later:
        run, mapping = _chosen(session, v)
        receiver, told = v.get("receiver") or "", told_settings(v)
        if raw is None or all(before.get(ours, "") == theirs for ours, theirs in mapping.items()):
            moved = old.revised(run_id=run.id, receiver="" if old.read_on == log.DBM else receiver, **told)
            return keep(session, f"log {old.source} is of run {run.number}", moved, old, v)
        return session.read_first(
            f"Reading {raw.name} again",
            lambda: log.read_csv(raw.data, raw.name, mapping),
            lambda read: session.later(log_entry(run, read, raw, receiver, told, old, v["reason"])),
        )

    return Form(
        f"Log {old.source}",
        [
            run_field(session, old.run_id),
            *([receiver_field(session, old.receiver)] if found is not None else []),
            *column_fields(log.FORMAT, found, before),
            *told_fields(session, old),
            *reason_fields(old),
        ],
        kept,
        note,
        remove=remover(session, old, f"log {old.source}"),
        history=history(session, old),
    )
