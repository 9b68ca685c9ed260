"""What every test gets: no screen, and XDG places of its own."""

from __future__ import annotations

import os
from collections import deque
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest
from hypothesis import settings

from tallmast.findings.climb import Climb
from tallmast.findings.field import tell
from tallmast.findings.field.model.weighed import DayNotes, Weighed, weigh
from tallmast.units import show

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
# How long one example takes by the clock says nothing on a machine that pauses: what is quick is measured in benchmarks/.
settings.register_profile("here", deadline=None)
settings.load_profile("here")


def pytest_addoption(parser: pytest.Parser) -> None:
    parser.addoption("--new-words", action="store_true", help="write tests/golden anew, to be read as a diff")


@pytest.fixture
def new_words(request: pytest.FixtureRequest) -> bool:
    """Whether the files of what is said are to be written instead of held."""
    return bool(request.config.getoption("--new-words"))


@pytest.fixture(autouse=True)
def _own_places(tmp_path_factory: pytest.TempPathFactory, monkeypatch: pytest.MonkeyPatch) -> None:
    home = tmp_path_factory.mktemp("home")
    monkeypatch.setenv("XDG_CONFIG_HOME", str(home / "config"))
    monkeypatch.setenv("XDG_DATA_HOME", str(home / "data"))
    show.use_imperial(False)
    monkeypatch.setattr(Climb, "fails_loudly", True)


WEIGHED: deque[Weighed] = deque(maxlen=8)
"""Large days of this process, most of them the demo's: what is the same is weighed once, as from one look to the next in the window."""


@pytest.fixture(autouse=True)
def _weighed_once(monkeypatch: pytest.MonkeyPatch) -> None:
    def once(notes: DayNotes, before: Weighed | None = None) -> Weighed | None:
        known = next((day for day in WEIGHED if day.notes == notes), None)
        found = known or weigh(notes, before)
        if found is not None and known is None and len(notes.said) > 100:
            WEIGHED.append(found)
        return found

    monkeypatch.setattr(tell, "weigh", once)


@pytest.fixture(scope="session")
def qapp_cls():
    from PySide6.QtWidgets import QApplication

    QApplication.setStyle("Fusion")
    return QApplication


@pytest.fixture
def window(qtbot) -> Iterator:
    """The real window, shown offscreen, with no notebook open."""
    from tallmast.desk.frame.window import Window

    # Not handed to qtbot, which closes its windows before the fixtures that rest on this one have had their last look.
    made = Window()
    made.show()
    yield made
    made.close()
    made.session.finish_files()  # what is painted aside must not be seen by the next test
    made.deleteLater()


@pytest.fixture(scope="session")
def demo_file(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The demo's notebook, written once; copy it before writing to it."""
    from tallmast.demo.campaign import write

    path = tmp_path_factory.mktemp("demo") / "demo.tallmast"
    write(path)
    return path


@pytest.fixture
def demo_copy(demo_file: Path, tmp_path: Path) -> Path:
    import shutil

    return Path(shutil.copyfile(demo_file, tmp_path / "demo.tallmast"))


@pytest.fixture
def as_root() -> bool:
    """Root may read and write everything, so permission tests must not believe what they see."""
    return os.geteuid() == 0


Opener = Callable[[Path], None]
