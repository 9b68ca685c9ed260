"""Records declare all of themselves: what follows from that is complete, and each declaration holds together."""

from pathlib import Path

import pytest
from msgspec import structs

from tallmast.desk.sheets.record_sheet import sheet_of
from tallmast.findings.climb import RUNGS
from tallmast.notebook import describe
from tallmast.notebook.records import KINDS, Log, Sweep
from tallmast.notebook.records.asked import asked_of
from tallmast.notebook.schema import FORMAT
from tallmast.units import quantity

DOCUMENT = Path(__file__).parents[2] / "docs" / "notebook-format.md"
QUANTITIES = {name: of for name, of in vars(quantity).items() if isinstance(of, quantity.Quantity)}
FIELDS = [(model, field) for model in KINDS.values() for field in asked_of(model)]


def test_the_format_is_described_as_it_is():
    """After a change of a record: python -m tallmast.notebook.describe docs/notebook-format.md"""
    assert describe.within(DOCUMENT.read_text(encoding="utf-8")) == DOCUMENT.read_text(encoding="utf-8")
    assert f"the format, now **{FORMAT}**" in DOCUMENT.read_text(encoding="utf-8")
    described = describe.text()
    for kind in KINDS:
        assert f"### {kind}\n" in described


@pytest.mark.parametrize("model", KINDS.values(), ids=KINDS)
def test_a_kind_says_what_it_is_where_it_is_written_and_which_columns_it_has(model):
    assert model.__doc__
    assert not model.rung or model.rung in RUNGS
    has_columns = "series_id" in model.__struct_fields__
    assert has_columns == bool(model.series)
    assert bool(model.folder) == (has_columns and model not in (Sweep, Log)), "sweeps and logs have files of their own"
    assert bool(asked_of(model)) == bool(model.rung), "what is asked for is asked on a rung"
    if model.rung:
        assert sheet_of(model).model is model


@pytest.mark.parametrize(("model", "field"), FIELDS, ids=[f"{m.kind}-{f.key}" for m, f in FIELDS])
def test_a_field_that_is_asked_for_holds_together(model, field):
    keys = [other.key for other in asked_of(model)]
    assert keys.count(field.key) == 1
    assert field.asked.words
    for name in field.asked.joins:
        assert name in model.__struct_fields__
    if field.asked.only is not None:
        attribute, values = field.asked.only
        chooser = next(other for other in asked_of(model) if other.attribute == attribute)
        assert set(values) <= {value for value, _ in chooser.choices}, "shown for what can be chosen"
    if field.asked.of:
        assert field.asked.of in KINDS
        assert field.attribute.endswith("_id")
    elif field.choices:
        assert field.default is None or field.default in dict(field.choices)
    elif field.part is None and not field.asked.joins and field.default:
        # What stands in the field of a new record is read back as the default.
        assert field.asked.quantity.read(field.asked.quantity.write(field.default)) == pytest.approx(field.default)


@pytest.mark.parametrize("model", KINDS.values(), ids=KINDS)
def test_defaults_are_within_their_own_limits(model):
    for field in asked_of(model):
        if isinstance(field.default, int | float):
            assert field.above is None or field.default > field.above
            assert field.least is None or field.default >= field.least
            assert field.most is None or field.default <= field.most


@pytest.mark.parametrize(
    ("name", "value"),
    [
        ("FREQUENCY", 868.95e6),
        ("POWER", 0.025),
        ("LEVEL", -97.0),
        ("GAIN", 2.15),
        ("LOSS", 0.42),
        ("U_DB", 0.3),
        ("NOISE_FIGURE", 1.2),
        ("AXIAL_RATIO", 2.0),
        ("SWR_READ", 1.42),
        ("SWR_LIMIT", 1.5),
        ("LENGTH", 1.25),
        ("SIZE", 0.084),
        ("DISTANCE", 3900.0),
        ("MASS", 0.41),
        ("BEARING", 40.0),
        ("FROM_FRONT", -30.0),
        ("PERCENT", 0.05),
        ("PERCENT_OF_READING", 0.05),
        ("FACTOR", 0.66),
        ("TIMES", 2.0),
        ("HOURS", 8 * 3600.0),
        ("BAND", (868e6, 870e6)),
        ("POSITION", (57.905, -11.2022)),
    ],
)
def test_what_a_quantity_writes_it_reads_back(name, value):
    of = QUANTITIES[name]
    written = of.write(value).replace("\N{MINUS SIGN}", "-")
    assert of.read(written) == pytest.approx(value, rel=1e-4)


def test_one_of_a_kind_are_those_with_an_id_of_their_own():
    fixed = {
        k for k, m in KINDS.items() if any(f.name == "id" and isinstance(f.default, str) for f in structs.fields(m))
    }
    assert fixed == {"question", "home end", "far end", "noise", "craft", "conditions"}
