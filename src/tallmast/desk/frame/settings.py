"""What is remembered between starts, in the XDG places."""

from __future__ import annotations

import json
import os
from collections.abc import Mapping
from pathlib import Path

from PySide6.QtCore import QByteArray, QSettings

from tallmast.figures.paper import PALETTES, Appearance

MOST_RECENT = 8
MOST_CORRECTIONS = 100


def config_folder() -> Path:
    """$XDG_CONFIG_HOME/tallmast."""
    return Path(os.environ.get("XDG_CONFIG_HOME") or Path.home() / ".config") / "tallmast"


def data_folder() -> Path:
    """$XDG_DATA_HOME/tallmast: where a new notebook is offered to live, and the demo's copies."""
    return Path(os.environ.get("XDG_DATA_HOME") or Path.home() / ".local" / "share") / "tallmast"


def _key(notebook: Path) -> str:
    return notebook.resolve().as_posix().replace("/", "|")


class Settings:
    """A thin face on one INI file. Unwritable places lose the memory, never the work."""

    def __init__(self) -> None:
        self._store = QSettings(str(config_folder() / "settings.ini"), QSettings.Format.IniFormat)

    @property
    def appearance(self) -> Appearance | None:
        """As it was chosen; None where it never was: then as the system has it."""
        value = str(self._store.value("appearance", ""))
        return value if value in PALETTES else None

    @appearance.setter
    def appearance(self, value: Appearance) -> None:
        self._store.setValue("appearance", value)

    @property
    def imperial(self) -> bool:
        return str(self._store.value("imperial", "false")) == "true"

    @imperial.setter
    def imperial(self, value: bool) -> None:
        self._store.setValue("imperial", "true" if value else "false")

    @property
    def analyzer(self) -> str:
        """The address of the analyzer that was connected last; empty: none but the practice bench."""
        return str(self._store.value("analyzer", ""))

    @analyzer.setter
    def analyzer(self, address: str) -> None:
        self._store.setValue("analyzer", address)

    @property
    def working_shown(self) -> bool:
        return str(self._store.value("working", "true")) == "true"

    @working_shown.setter
    def working_shown(self, value: bool) -> None:
        self._store.setValue("working", "true" if value else "false")

    @property
    def geometry(self) -> QByteArray | None:
        value = self._store.value("geometry")
        return value if isinstance(value, QByteArray) else None

    @geometry.setter
    def geometry(self, value: QByteArray) -> None:
        self._store.setValue("geometry", value)

    def rung(self, notebook: Path) -> str:
        return str(self._store.value(f"rung/{_key(notebook)}", "shelf"))

    def set_rung(self, notebook: Path, rung: str) -> None:
        self._store.setValue(f"rung/{_key(notebook)}", rung)

    @property
    def recent(self) -> list[Path]:
        """Notebooks opened last, newest first, those that are still there."""
        value = self._store.value("recent", [])
        names = [value] if isinstance(value, str) else list(value or [])  # type: ignore[call-overload]
        return [Path(name) for name in names if Path(name).exists()]

    def opened(self, notebook: Path) -> None:
        names = [str(notebook.resolve())]
        names += [str(path) for path in self.recent if str(path) != names[0]]
        self._store.setValue("recent", names[:MOST_RECENT])

    def sentence(self, notebook: Path) -> str:
        """What its verdict said when it was open last; empty when none is known."""
        return str(self._store.value(f"sentence/{_key(notebook)}", ""))

    def set_sentence(self, notebook: Path, sentence: str) -> None:
        self._store.setValue(f"sentence/{_key(notebook)}", sentence)

    def correction(self, shape: str) -> tuple[str, dict[str, str]] | None:
        """(kind, columns) that a person said of a table of this shape the last time."""
        kind, columns = self.corrections().get(shape, ("", {}))
        return (kind, columns) if kind else None

    def correct(self, shape: str, kind: str, columns: Mapping[str, str]) -> None:
        """Remember what a person said of a table, for the next one of the same shape."""
        known = self.corrections()
        known.pop(shape, None)
        known[shape] = (kind, dict(columns))
        self._store.setValue("corrections", json.dumps(dict(list(known.items())[-MOST_CORRECTIONS:])))

    def corrections(self) -> dict[str, tuple[str, dict[str, str]]]:
        """All that is remembered of tables, by their shape."""
        try:
            known = json.loads(str(self._store.value("corrections", "{}")))
            return {
                shape: (str(kind), {str(k): str(v) for k, v in columns.items()})
                for shape, (kind, columns) in known.items()
            }
        except (ValueError, TypeError, AttributeError):
            return {}  # somebody edited the file: it is only a memory

    def sync(self) -> None:
        self._store.sync()
