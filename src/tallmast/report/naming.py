"""Names of files that any system takes."""

from __future__ import annotations

import re
from pathlib import PurePath

LONGEST_NAME = 60


def slug(text: str) -> str:
    """A file name out of a title: letters and digits of any script, no longer than any file system takes."""
    return re.sub(r"[\W_]+", "-", text.lower())[:LONGEST_NAME].strip("-") or "unnamed"


def file_name(name: str) -> str:
    """The name an imported file came under, without what another system can't have in one."""
    path = PurePath(re.sub(r'[\x00-\x1f\x7f<>:"/\\|?*]+', "-", name).strip(" ."))
    return f"{path.stem[:LONGEST_NAME].strip(' .') or 'file'}{path.suffix[:12]}"
