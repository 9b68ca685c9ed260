"""One writer to a notebook: an advisory lock on a small file beside it.

SQLite's own locks come and go with each transaction; this one says 'somebody has it open'. The kernel drops it
when the process dies, however that happens.
"""

from __future__ import annotations

import errno
import fcntl
import os
import stat
import tempfile
from pathlib import Path


class Lock:
    """Held while `release` has not been called. `why_not` is set when no lock can be made at all."""

    def __init__(self, path: Path | None, handle: int, why_not: str = "") -> None:
        self._path = path
        self._handle = handle
        self.why_not = why_not

    @classmethod
    def take(cls, notebook: Path) -> Lock | None:
        """The lock, or None when another process has it."""
        if notebook.exists() and not os.access(notebook, os.W_OK):
            return cls(None, -1, "the file can't be written")
        if not os.access(notebook.parent, os.W_OK):
            return cls(None, -1, "its folder can't be written")
        try:
            real = notebook.resolve()
            if real.exists() and real.stat().st_nlink > 1:
                # One file under several names: the lock goes by the file, in a place that all names share.
                status = real.stat()
                path = _own_folder() / f"{status.st_dev}-{status.st_ino}"
            else:
                path = real.with_name(f".{real.name}.tallmast-lock")
            while True:
                handle = os.open(path, os.O_RDWR | os.O_CREAT | os.O_CLOEXEC | os.O_NOFOLLOW, 0o644)
                try:
                    fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
                except BlockingIOError:
                    os.close(handle)
                    return None
                # A holder that just left may have removed the file that we opened: then it locks nothing.
                if path.exists() and os.fstat(handle).st_ino == path.stat().st_ino:
                    return cls(path, handle)
                os.close(handle)
        except OSError as error:
            return cls(None, -1, (error.strerror or "no lock can be made").lower())

    def release(self) -> None:
        if self._handle >= 0:
            if self._path is not None:
                self._path.unlink(missing_ok=True)
            os.close(self._handle)
            self._handle = -1


def _own_folder() -> Path:
    """Where locks lie that go by the file and not by its name: in the folder of the session, else in the temporary one. Raises `OSError`
    for one that somebody else put there, who could lead the lock anywhere."""
    session = Path(os.environ.get("XDG_RUNTIME_DIR") or tempfile.gettempdir())
    folder = (session if session.is_dir() else Path(tempfile.gettempdir())) / f"tallmast-locks-{os.getuid()}"
    folder.mkdir(mode=0o700, exist_ok=True)
    found = folder.lstat()
    if not stat.S_ISDIR(found.st_mode) or found.st_uid != os.getuid() or found.st_mode & 0o022:
        raise PermissionError(errno.EPERM, f"{folder} is somebody else's")
    return folder
