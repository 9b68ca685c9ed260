"""Starting the application: with a window, or only to paint pictures or a report."""

from __future__ import annotations

import gc
import os
import signal
import sys
from collections.abc import Callable
from pathlib import Path
from types import TracebackType

# Before Qt: from then on its import hook reads the source of every module that comes, 0.1 s in all.
import uncertainties  # noqa: F401

import tallmast.notebook.store  # noqa: F401
from tallmast.findings.aims import of_text
from tallmast.findings.climb import RUNGS

# isort: split

from PySide6.QtCore import (
    QCoreApplication,
    QDeadlineTimer,
    QEventLoop,
    QSize,
    QSocketNotifier,
    QTimer,
    QtMsgType,
    qInstallMessageHandler,
)
from PySide6.QtWidgets import QApplication

from .frame.window import Window


def tune() -> None:
    """The interpreter's own switches, set once for the process."""
    # Files, records and rows are many objects and hardly any rubbish: looking through them at every 700 new ones, as
    # Python does by itself, makes reading a hundred files take 8 % longer.
    gc.set_threshold(50_000, 20, 20)
    # Workers share the interpreter with the window: with turns of 5 ms, as Python has them, the window waits in line, and so does a
    # reader that lets go of it for every piece of a file: a sheet is built beside it now, not instead of it.
    sys.setswitchinterval(0.0002)


def make_app() -> QApplication:
    """The application object, named for the desktop; the interpreter tuned for a window with workers."""
    tune()
    existing = QApplication.instance()
    if isinstance(existing, QApplication):
        return existing
    QApplication.setApplicationName("Tall Mast")
    QApplication.setDesktopFileName("page.tallmast.TallMast")
    QApplication.setStyle("Fusion")
    return QApplication(sys.argv[:1])


def run(notebook: Path | None, demo: bool, shots: Path | None, report: Path | None, aims: str = "") -> int:
    """Open the window and stay, or paint what was asked for and leave; `aims`: what is looked at, as text. Returns the exit code."""
    if shots or report:
        os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    elif not any(os.environ.get(name) for name in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM")):
        print("There is no screen here to open a window on. --report and --shots need none.", file=sys.stderr)
        return 1
    import tempfile

    app = make_app()
    qInstallMessageHandler(_quiet)
    with tempfile.TemporaryDirectory(prefix="tallmast-") as scratch:
        if demo and (shots or report):
            # Painting for a document: the copy of the demo need not outlive it.
            os.environ["XDG_DATA_HOME"] = os.environ["XDG_CONFIG_HOME"] = scratch
        window = Window(appearance="Day" if shots else None)
        sys.excepthook = _telling(window)
        code = _open(window, notebook, demo)
        if aims and code == 0:
            window.session.look_at(of_text(aims))
        if shots or report:
            if code == 0:
                window.session.settle()
                if report:
                    code = _report(window, report)
                if shots:
                    paint_shots(window, shots)
            if code:
                print(window.tape.trouble.text(), file=sys.stderr)
            window.close()
            return code
        window.show()
        _close_on_signals(window)
        code = app.exec()
    window.session.finish_files()
    if window.session.at_work:
        # A finding can't be broken off, and all that is kept is in the file: the process ends with its window.
        sys.stdout.flush()
        os._exit(code)
    return code


def _close_on_signals(window: Window) -> None:
    """Ctrl+C in the terminal, or a session that ends, closes the window as a person would: Qt's loop never comes to Python's handlers by
    itself, so a pipe wakes it."""
    awake, wakes = os.pipe()
    os.set_blocking(wakes, False)
    signal.set_wakeup_fd(wakes, warn_on_full_buffer=False)
    for number in (signal.SIGINT, signal.SIGTERM):
        signal.signal(number, lambda *_: None)
    heard = QSocketNotifier(awake, QSocketNotifier.Type.Read, window)
    heard.activated.connect(window.close)


def _report(window: Window, path: Path) -> int:
    from tallmast.report.write import ReportError, write

    climb = window.session.climb
    if climb is None:
        return 1
    try:
        write(climb, path)
    except ReportError as error:
        window.tell_trouble(str(error))
        return 1
    return 0


def _open(window: Window, notebook: Path | None, demo: bool) -> int:
    if demo:
        window.files.open_demo()
        return 0 if window.session.notebook else 1
    if notebook is not None:
        return 0 if window.open_notebook(notebook) else 1
    recent = window.settings.recent
    if recent:
        try:
            window.open_notebook(recent[0])
        except Exception as error:  # the start must not hang on what was open last
            window.tell_trouble(f"{recent[0].name} could not be opened ({type(error).__name__}).")
    return 0


def _telling(window: Window) -> Callable[[type[BaseException], BaseException, TracebackType | None], None]:
    """What nobody foresaw is told in the window, and in full on standard error for whoever mends it."""

    def tell(kind: type[BaseException], error: BaseException, trace: TracebackType | None) -> None:
        sys.__excepthook__(kind, error, trace)
        if issubclass(kind, Exception):
            window.tell_trouble(
                f"Something went wrong inside the program ({kind.__name__}). Everything on the tape is kept; "
                "if the screen looks wrong, close it and open it again."
            )

    return tell


def _quiet(kind: QtMsgType, context: object, message: str) -> None:
    """Qt's own remarks go to standard error, but not the one that every offscreen window makes."""
    if "propagateSizeHints" not in message:
        print(message, file=sys.stderr)


def paint_shots(window: Window, folder: Path) -> None:
    """Each main view at 1280×800, and the Bench at night, the tape, an entry sheet and the start page."""
    folder.mkdir(parents=True, exist_ok=True)
    size = QSize(1280, 800)
    window.resize(size)
    window.show()

    def shot(name: str, of: Window = window) -> None:
        for _ in range(8):  # until every card has found its height
            QApplication.processEvents()
        of.grab().scaled(size).save(str(folder / f"{name}.png"))

    for number, rung in enumerate(RUNGS, 1):
        window.climb_to(rung)
        shot(f"{number}-{rung}")
    window.dress_as("Night")
    window.climb_to("bench")
    window.resize(size)
    shot("bench-night")
    window.dress_as("Day")
    window.climb_to("bench")
    for _ in range(4):
        window.act("look")
    shot("bench-plane")
    window.act("look")
    shot("bench-ladder")
    window.act("look")
    _shoot_live(window, shot)
    window.climb_to("levels")
    for name in ("back", "noise", "display", "drawer"):
        window.act("look")
        shot(f"levels-{name}")
    window.act("look")
    _shoot_map(window, shot)
    window.climb_to("bench")
    window.act("meter reading")
    shot("entry-sheet")
    window.side.close_entry()
    window.toggle_tape()
    shot("tape")
    window.toggle_tape()
    _shoot_start(shot, size)


def _shoot_map(window: Window, shot: Callable[[str], None]) -> None:
    """Where the antenna in focus reaches, all of it fine."""
    from .link.view import LinkView

    window.act("map")
    view = window.views["link"]
    assert isinstance(view, LinkView)
    _until(lambda: view.covering.coverage is not None and view.covering.coverage.done == 1.0)
    shot("link-map")


def _shoot_start(shot: Callable[[str, Window], None], size: QSize) -> None:
    """The start page of somebody who was here before."""
    window = Window(appearance="Day")
    window.resize(size)
    window.show()
    page = window.start
    assert page is not None
    page.paint_soon()
    _until(lambda: not page.shown[0].icon().isNull())
    shot("start", window)
    window.close()


def _until(there: Callable[[], bool], most_ms: int = 20_000) -> None:
    """Process events until something is so, or has not come for too long."""
    deadline = QDeadlineTimer(most_ms)
    alarm = QTimer()
    alarm.start(200)
    while not there() and not deadline.hasExpired():
        QCoreApplication.processEvents(QEventLoop.ProcessEventsFlag.WaitForMoreEvents)


def _shoot_live(window: Window, shot: Callable[[str], None]) -> None:
    """The analyzer panel, with the antenna in focus on the practice bench."""
    from .bench.view import BenchView

    window.act("analyzer")
    view = window.views["bench"]
    assert isinstance(view, BenchView)
    live = view.live

    def wait(count: int) -> None:
        enough = live.view.painted + count
        _until(lambda: live.view.painted >= enough)

    wait(1)
    live.procedure.hands.attach_antenna()
    wait(4)
    live.procedure.toggle()
    shot("bench-live")
    live.procedure.end()
    view.stop_live()
