"""Where Molvik keeps its own files: locks and recovery, in the user's state folder (XDG)."""

from pathlib import Path

from platformdirs import user_data_path, user_state_path


def state_folder(name: str) -> Path:
    """Return a folder of ours below the state folder, made if need be. Raises OSError."""
    folder = user_state_path("molvik", appauthor=False) / name
    folder.mkdir(parents=True, exist_ok=True)
    return folder


def data_home() -> Path:
    """Return the user's XDG data folder."""
    return user_data_path()
