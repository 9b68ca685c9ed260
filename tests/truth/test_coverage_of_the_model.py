"""The short version of `./run truth` for the model of the day."""

import pytest

from . import worlds  # noqa: F401
from .tally import QUANTITIES
from .test_coverage import ELSEWHERE, hold


@pytest.mark.parametrize("name", [name for name, q in QUANTITIES.items() if q.rung in ELSEWHERE])
def test_the_model_holds_about_as_often_as_it_states(name):
    hold(name)
