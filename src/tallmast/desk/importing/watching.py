"""A folder in which another program saves sweeps: each new file is handed on once it is whole."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QFileSystemWatcher, QObject, QTimer

SETTLED_MS = 300
"""A file is whole when its size has stayed the same for so long."""

ENDINGS = (".s1p", ".s2p", ".ts")


class Watched(QObject):
    """Hands on each Touchstone file that appears or is written anew after the watch began."""

    def __init__(self, folder: Path, came: Callable[[Path], None], parent: QObject) -> None:
        super().__init__(parent)
        self.folder, self._came = folder, came
        self._known = self._sizes()
        self._growing: dict[Path, tuple[int, int]] = {}
        self._watcher = QFileSystemWatcher([str(folder)], self)
        self._watcher.directoryChanged.connect(self._look)
        self._timer = QTimer(self)
        self._timer.setInterval(SETTLED_MS)
        self._timer.timeout.connect(self._look)

    def stop(self) -> None:
        self._timer.stop()
        self._watcher.directoryChanged.disconnect(self._look)
        self.deleteLater()

    def _sizes(self) -> dict[Path, tuple[int, int]]:
        """Size and time of every sweep in the folder; nothing where the folder is gone."""
        out = {}
        try:
            for path in self.folder.iterdir():
                if path.suffix.lower() in ENDINGS and path.is_file():
                    at = path.stat()
                    out[path] = (at.st_size, at.st_mtime_ns)
        except OSError:
            return out
        return out

    def _look(self) -> None:
        now = self._sizes()
        fresh = {path: seen for path, seen in now.items() if self._known.get(path) != seen}
        whole = [path for path, seen in fresh.items() if seen[0] > 0 and self._growing.get(path) == seen]
        self._growing = {path: seen for path, seen in fresh.items() if path not in whole}
        for path in sorted(whole, key=lambda p: now[p][1]):
            self._known[path] = now[path]
            self._came(path)
        if self._growing:
            self._timer.start()
        else:
            self._timer.stop()
