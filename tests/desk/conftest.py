"""What most tests of the window start from."""

import pytest

from .hands import Hands


@pytest.fixture
def hands(window, qtbot, demo_copy) -> Hands:
    """Hands on a window with a fresh copy of the demo open, its findings there."""
    made = Hands(qtbot, window)
    assert window.open_notebook(demo_copy)
    made.settle()
    return made
