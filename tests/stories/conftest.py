"""Every story begins with an empty notebook."""

import pytest

from tallmast.notebook.store import Notebook

from ..desk.hands import Hands


@pytest.fixture
def hands(window, qtbot, tmp_path) -> Hands:
    Notebook.create(tmp_path / "story.tallmast").close()
    made = Hands(qtbot, window)
    assert window.open_notebook(tmp_path / "story.tallmast")
    made.settle()
    return made
