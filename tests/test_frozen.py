"""What is worked out once is handed on as it is: nobody's view changes another's numbers."""

from functools import cached_property

import pytest
from msgspec.structs import replace

from tallmast.frozen import Frozen, field


class Told(Frozen):
    level_db: float
    parts: dict[str, float] = field(default_factory=dict)

    @cached_property
    def doubled(self) -> list[float]:
        return [2.0 * self.level_db]


class Point(Frozen, eq=True):
    east_m: float
    north_m: float


def test_what_is_handed_on_stays_as_it_is():
    told = Told(3.0)
    with pytest.raises(AttributeError):
        told.level_db = 4.0  # type: ignore[misc]
    assert replace(told, level_db=4.0).doubled == [8.0] and told.level_db == 3.0
    assert told.doubled is told.doubled
    assert told.parts is not Told(3.0).parts


def test_the_same_is_itself_or_what_has_equal_fields():
    told = Told(3.0)
    assert told in {told} and told != Told(3.0)
    assert Point(1.0, 2.0) == Point(1.0, 2.0) and len({Point(1.0, 2.0), Point(1.0, 2.0)}) == 1
