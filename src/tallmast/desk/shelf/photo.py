"""The photo of an antenna: opened once, on a worker, at the size in which it is shown."""

from __future__ import annotations

from PySide6.QtCore import QBuffer, QByteArray, QIODevice, QSize
from PySide6.QtGui import QImage, QImageReader, QPixmap
from shiboken6 import isValid

from tallmast.notebook.records import Antenna

from ..parts import Card, label
from ..session import Session

TALLEST_PX = 220
MOST_KEPT = 12


def shown_image(data: bytes, tallest: int) -> QImage | str:
    """A photo no taller than it is shown, the right way up; or why it can't be shown."""
    array = QByteArray(data)
    buffer = QBuffer(array)
    buffer.open(QIODevice.OpenModeFlag.ReadOnly)
    reader = QImageReader(buffer)
    reader.setAutoTransform(True)  # as the camera was held
    size = reader.size()
    if size.isValid() and size.height() > tallest:
        # A JPEG is then decoded no larger than needed, which takes a tenth of the time.
        reader.setScaledSize(QSize(max(1, round(size.width() * tallest / size.height())), tallest))
    image = reader.read()
    if not image.isNull():
        return image
    if size.isValid() and size.width() * size.height() * 4 > QImageReader.allocationLimit() * 2**20:
        return f"is {size.width()} × {size.height()} points, more than can be opened here: save a smaller one"
    return "can’t be opened: the file may be cut off"


class PhotoCard(Card):
    """The photo of the antenna in focus, if it has one."""

    def __init__(self, session: Session, scale: float) -> None:
        super().__init__()
        self.session = session
        self.tallest = round(TALLEST_PX * scale)
        self.photo = label("", "photo", wrap=True)
        self.box.addWidget(self.photo)
        self._opened: dict[str, QImage | str] = {}
        self._opening: set[str] = set()

    def show_of(self, antenna: Antenna | None) -> None:
        sha256 = antenna.photo_sha256 if antenna is not None else None
        found = self._opened.get(sha256 or "")
        self.setVisible(found is not None)
        if antenna is None or sha256 is None:
            return
        if found is None:
            self._open(sha256)
            return
        self.set_title(f"{antenna.name}, photo")
        if isinstance(found, QImage):
            self.photo.setPixmap(QPixmap.fromImage(found))
            self.photo.setAccessibleName(f"Photo of {antenna.name}")
        else:
            self.photo.setText(f"The photo {found}. The file is kept as it came.")

    def _open(self, sha256: str) -> None:
        notebook = self.session.notebook
        raw = notebook.raw(sha256) if notebook is not None and sha256 not in self._opening else None
        if raw is None:
            return
        self._opening.add(sha256)

        def done(found: QImage | str | None, error: Exception | None) -> None:
            if not isValid(self):
                return  # the look was changed meanwhile: the new card opens it for itself
            self._opening.discard(sha256)
            while len(self._opened) >= MOST_KEPT:
                self._opened.pop(next(iter(self._opened)))
            self._opened[sha256] = f"can’t be opened ({error})" if found is None else found
            antenna = self.session.focus_antenna
            if antenna is not None and antenna.photo_sha256 == sha256:
                self.show_of(antenna)

        self.session.work(f"Opening {raw.name}", lambda: shown_image(raw.data, self.tallest), done)
