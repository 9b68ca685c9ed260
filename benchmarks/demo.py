"""The window with the demo open, as the benchmarks of the desk begin."""

from __future__ import annotations

import os
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from PySide6.QtWidgets import QApplication

    from tallmast.desk.frame.window import Window


@contextmanager
def opened() -> Iterator[tuple[QApplication, Window]]:
    """The application and its window, in a home of their own; the demo worked out."""
    with tempfile.TemporaryDirectory() as folder:
        os.environ["XDG_CONFIG_HOME"] = os.environ["XDG_DATA_HOME"] = folder
        os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
        from tallmast.desk.app import make_app
        from tallmast.desk.frame.window import Window

        app = make_app()
        window = Window()
        window.show()
        window.files.open_demo()
        window.session.settle()
        yield app, window
        window.close()
        app.processEvents()
