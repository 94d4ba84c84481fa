"""Where Molvik keeps its own files: locks and recovery, under the XDG state folder."""

import os
from pathlib import Path


def state_folder(name: str) -> Path:
    """Return a folder of ours below the state folder, made if need be. Raises OSError."""
    base = os.environ.get("XDG_STATE_HOME") or str(Path.home() / ".local" / "state")
    folder = Path(base) / "molvik" / name
    folder.mkdir(parents=True, exist_ok=True)
    return folder


def data_home() -> Path:
    """Return the user's XDG data folder."""
    return Path(os.environ.get("XDG_DATA_HOME") or Path.home() / ".local" / "share")
