"""The files that were opened last."""

import os
from pathlib import Path

from PySide6.QtCore import QSettings

MOST_RECENT = 8


class RecentFiles:
    """Their paths, kept in the settings."""

    def __init__(self, settings: QSettings) -> None:
        self._settings = settings

    def __call__(self) -> list[Path]:
        """Return those that are still there, the last one first."""
        kept = self._settings.value("recent", [])
        names = kept if isinstance(kept, list) else [kept] if isinstance(kept, str) else []
        return [path for path in map(Path, names) if path.exists()]

    def remember(self, path: Path) -> None:
        """Put a file before the others."""
        names = [os.path.realpath(path)]
        names += [str(path) for path in self() if str(path) not in names]
        self._settings.setValue("recent", names[:MOST_RECENT])

    def forget(self, path: Path) -> None:
        """Take a file off the list."""
        gone = os.path.realpath(path)
        self._settings.setValue("recent", [str(path) for path in self() if str(path) != gone])
