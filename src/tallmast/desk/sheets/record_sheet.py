"""The sheet of any kind of record, from what the kind declares; what it can't declare stands in its rung's `sheets`."""

from __future__ import annotations

from collections.abc import Callable, Collection, Sequence
from functools import cache, partial
from importlib import import_module
from typing import Any, Generic, TypeVar, cast

from msgspec import structs
from msgspec.structs import replace

from tallmast.frozen import Frozen
from tallmast.notebook.evidence import Evidence
from tallmast.notebook.records import KINDS, Antenna, Record, Run
from tallmast.notebook.records.asked import AskedField, asked_of
from tallmast.units import read, show
from tallmast.units.quantity import LEVEL

from ..session import Session
from .entry import Form
from .fields import Field, FieldError
from .keeping import history, keep, made, reason_fields, remover, text_of
from .parts import PARTS

R = TypeVar("R", bound=Record)
Values = dict[str, Any]
"""By attribute."""

FIRST: dict[str, str] = {
    "antenna": "Put the antenna on the shelf first.",
    "run": "Note the run first: which antenna, which power (Field, R).",
    "place": "Add the place first, by its coordinates (Field, L).",
}
"""What there has to be before something can refer to it."""


class RecordSheet(Frozen, Generic[R], eq=True):
    """What a kind of record can't declare of its sheet."""

    model: type[R]
    title: str
    """Of a new one."""
    words: Callable[[R, R | None, Evidence], str] = lambda record, old, evidence: record.title
    """What the tape says of it, as it is now and was before."""
    first: str = ""
    """What the tape says before that, of a new one."""
    opened: Callable[[R, Evidence], str] = lambda record, evidence: record.title
    """The title of one that was kept before."""
    note: str | Callable[[Session, R | None], str] = ""
    check: Callable[[Values, R | None, Session], None] = lambda values, old, session: None
    """Raises `FieldError` where values don't go together; before anything is kept."""
    carried: Callable[[Session], Values] = lambda session: {}
    """What a new one's fields begin with."""
    own: Callable[[Session, R | None], Sequence[tuple[str, Field]]] = lambda session, old: ()
    """Fields made by hand, each in place of an attribute's, or behind it where its key is another."""
    work_out: Callable[[Values, R | None, Session], Values] = lambda values, old, session: {}
    """Attributes that follow from the fields, or that no field asks for."""
    also: Callable[[R, Values, Session], Sequence[Record]] = lambda record, values, session: ()
    """Records that change with it."""
    kept: Callable[[R, Session], object] = lambda record, session: None
    by_hand: Callable[[Session, R], Form] | None = None
    """Makes the sheet of one that was kept before, where reading its file again belongs to that."""
    minded: tuple[str, Callable[[Any], str]] | None = None
    """(attribute of a choice, what can hurt somebody with that chosen)."""
    again: bool = False
    """Several are written in a row (Ctrl+Enter)."""
    removed_as: Callable[[R], str] | None = lambda record: record.title
    """What the tape calls it when it is taken out; None where it can't be."""


def named_once(model: type[Record], where: str) -> Callable[[Values, Record | None, Session], None]:
    """A check that no other record of the kind has the name; `where` says where they are: ` in the drawer`."""

    def check(values: Values, old: Record | None, session: Session) -> None:
        name = values["name"].lower()
        others = (r for r in session.evidence.all(model) if old is None or r.id != old.id)
        if any(getattr(r, "name", "").lower() == name for r in others):
            raise FieldError("name", f"There is a {values['name']}{where} already.")

    return check


def one_of_a_kind(model: type[R], session: Session) -> R | None:
    """The record of a kind of which a notebook has at most one."""
    fixed = next(f.default for f in structs.fields(model) if f.name == "id")
    return session.evidence.get(model, fixed) if isinstance(fixed, str) else None


def choices_of(session: Session, kind: str) -> list[tuple[str, str]]:
    """Every record of a kind, to choose one from."""
    evidence = session.evidence
    records: list[Record] = list(evidence.all(KINDS[kind]))
    if kind == "run":
        records = list(evidence.runs)
    return [(r.id, _called(r, evidence)) for r in records]


def _called(record: Record, evidence: Evidence) -> str:
    if isinstance(record, Run):
        antenna = evidence.antenna(record.antenna_id)
        return f"{record.number}: {antenna.name if antenna else '?'}, {record.manner}"
    return record.title


def field_of(session: Session, field: AskedField, value: Any) -> Field:
    """One declared field, as it stands in a sheet that begins with a value."""
    asked = field.asked
    if asked.of or field.choices:
        none = [("" if field.default == "" else None, asked.none)] if asked.none else []
        choices = choices_of(session, asked.of) if asked.of else field.choices
        return Field(
            field.key, asked.words, choices=[*none, *choices], chosen=value, only=asked.only, seldom=asked.seldom
        )
    empty = not field.default and value == field.default
    reader, question = asked.quantity.read, session.question
    if asked.quantity is LEVEL and question is not None:
        reader = partial(read.level, frequency_hz=question.centre_hz)  # what an S unit is goes by the band
    return Field(
        field.key,
        asked.words,
        reader,
        asked.quantity.echo,
        "" if empty else text_of(value, asked.quantity.write),
        asked.hint,
        field.needed,
        only=asked.only,
        seldom=asked.seldom,
    )


def declared_fields(
    session: Session, model: type[Record], old: Record | None, carried: Values
) -> list[tuple[str, list[Field]]]:
    """The sheet's fields of a kind, by attribute, in the order in which they are declared."""
    out = []
    for field in asked_of(model):
        if field.asked.correcting and old is None:
            continue
        offered = field.default if field.asked.offered is None else field.asked.offered
        names = (field.attribute, *field.asked.joins)
        if old is not None:
            value = tuple(getattr(old, n) for n in names) if field.asked.joins else getattr(old, field.attribute)
        else:
            value = carried.get(field.attribute, offered)
        if field.part is not None:
            parts = PARTS[field.part].fields(field.key, field.asked.words, value)
            out.append((field.attribute, [replace(part, seldom=field.asked.seldom) for part in parts]))
        else:
            out.append((field.attribute, [field_of(session, field, value)]))
    return out


def values_of(
    model: type[Record],
    old: Record | None,
    v: dict[str, Any],
    by_hand: Collection[str] = (),
    names: Collection[str] | None = None,
    carried: Values | None = None,
) -> Values:
    """What the declared fields of a sheet say, by attribute; of `names` only, where given. An empty field means its
    default. Raises `FieldError` where something that it refers to is missing."""
    out: Values = {}
    for field in asked_of(model):
        if names is not None and field.attribute not in names:
            continue
        if field.attribute in by_hand:
            out[field.attribute] = v.get(field.key)
            continue
        if field.asked.correcting and old is None:
            continue
        if field.part is not None:
            before = getattr(old, field.attribute) if old is not None else (carried or {}).get(field.attribute)
            out[field.attribute] = PARTS[field.part].of(v, field.key, before)
            continue
        value = v[field.key]
        if value is None:
            if field.needed and field.asked.of:
                raise FieldError(field.key, FIRST[field.asked.of])
            value = field.default
        if field.asked.joins and value is not None:
            out |= dict(zip((field.attribute, *field.asked.joins), value, strict=True))
        else:
            out[field.attribute] = value
    return out


def _within_limits(model: type[Record], values: Values) -> None:
    for field in asked_of(model):
        value = values.get(field.attribute)
        if not isinstance(value, int | float) or isinstance(value, bool):
            continue
        empty = "" if field.needed else ", or left empty"
        if field.above is not None and value <= field.above:
            raise FieldError(field.key, f"{field.asked.words}: above {_plain(field.above)}{empty}.")
        if field.least is not None and value < field.least:
            raise FieldError(field.key, f"{field.asked.words}: {_plain(field.least)} or more{empty}.")
        if field.most is not None and value > field.most:
            raise FieldError(field.key, f"{field.asked.words}: {_plain(field.most)} or less{empty}.")


def _refers(model: type[Record], values: Values, session: Session) -> None:
    """Raises where a field refers to a record that there is not: with nothing to choose from, anything can be typed."""
    for field in asked_of(model):
        value = values.get(field.attribute)
        if field.asked.of and value and session.evidence.get(KINDS[field.asked.of], value) is None:
            raise FieldError(field.key, FIRST.get(field.asked.of, f"There is no such {field.asked.of}."))


def _plain(limit: float) -> str:
    return "zero" if limit == 0 else show.fixed(limit, 0) if limit == int(limit) else f"{limit:g}"


def form(session: Session, model: type[R], old: R | None = None, **carried: Any) -> Form:
    """The sheet of a new record of a kind, or of one that was kept before."""
    sheet = sheet_of(model)
    if sheet.by_hand is not None and old is not None:
        return sheet.by_hand(session, old)
    old = old or one_of_a_kind(model, session)
    fields: list[Field] = []
    own = list(sheet.own(session, old))
    begun = {} if old is not None else {**sheet.carried(session), **carried}
    for attribute, declared in declared_fields(session, model, old, begun):
        mine = [f for at, f in own if at == attribute]
        keys = {f.key for f in mine}
        fields += [f for f in declared if f.key not in keys]
        fields += mine
    replaced = {at for at, f in own if any(f.key == d.key for d in asked_of(model) if d.attribute == at)}

    def keep_it(v: dict[str, Any]) -> bool:
        values = values_of(model, old, v, replaced, carried=begun)
        values |= {f"sheet:{f.key}": v[f.key] for _, f in own}
        sheet.check(values, old, session)
        values |= sheet.work_out(values, old, session)
        if "state_id" in model.__struct_fields__ and "antenna_id" in values:
            values.setdefault("state_id", _state(session, values["antenna_id"], old))
        also = [(k, x) for k, x in values.items() if k.startswith("sheet:")]
        values = {k: x for k, x in values.items() if k in model.__struct_fields__}
        _within_limits(model, values)
        _refers(model, values, session)
        record = made(model, old, **values)
        words = sheet.words(record, old, session.evidence)
        if old is None:
            words = show.upper_first(f"{sheet.first}{words}")
        others = sheet.also(record, dict(also), session)
        alike = sum(isinstance(other, model) for other in others)
        words += f" and {alike} more" if alike else ""
        if not keep(session, words, record, old, v, others):
            return False
        sheet.kept(record, session)
        return True

    note = sheet.note if isinstance(sheet.note, str) else sheet.note(session, old)
    return Form(
        sheet.title if old is None else sheet.opened(old, session.evidence),
        [*fields, *reason_fields(old)],
        keep_it,
        note,
        remove=remover(session, old, sheet.removed_as(old)) if old is not None and sheet.removed_as else None,
        again=(lambda: form(session, model)) if sheet.again else None,
        history=history(session, old),
        minded=sheet.minded,
    )


def _state(session: Session, antenna_id: str, old: Record | None) -> str:
    """The state that a measurement belongs to: the antenna's present one, or that in which it was taken."""
    if old is not None and getattr(old, "antenna_id", "") == antenna_id:
        return cast(str, old.state_id)  # type: ignore[attr-defined]
    antenna = session.evidence.get(Antenna, antenna_id)
    if antenna is None:
        raise FieldError("antenna", FIRST["antenna"])
    return antenna.state.id


@cache
def sheet_of(model: type[R]) -> RecordSheet[R]:
    """What is said of a kind's sheet beside the kind; loaded when one is first written. Of many a kind that is nothing."""
    sheets = import_module(f"tallmast.desk.{model.rung}.sheets").SHEETS
    plain = RecordSheet(model, show.upper_first(model.kind))
    return cast(RecordSheet[R], next((s for s in sheets if s.model is model), plain))
