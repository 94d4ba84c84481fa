"""Where Molvik keeps its own files: locks and recovery, in the user's state folder (XDG)."""

import stat
from pathlib import Path
from urllib.parse import unquote, urlsplit

from platformdirs import user_data_path, user_state_path


def state_folder(name: str) -> Path:
    """Return a folder of ours below the state folder, made if need be; nobody else may read
    what is in it. Raises OSError."""
    ours = user_state_path("molvik", appauthor=False)
    ours.parent.mkdir(parents=True, exist_ok=True)
    folder = ours / name
    for one in (ours, folder):
        one.mkdir(mode=0o700, exist_ok=True)
        if stat.S_IMODE(one.stat().st_mode) & 0o077:  # of an earlier version: others could read it
            one.chmod(0o700)
    return folder


def data_home() -> Path:
    """Return the user's XDG data folder."""
    return user_data_path()


def is_job(word: str) -> bool:
    """Return whether a word of the command line is a file, though it begins as an option does."""
    return word.endswith(".molvik") and Path(word).is_file()


def file_of(word: str) -> Path:
    """Return the file that a desktop names, by its path or as file:///home/me/a%20job.molvik."""
    parts = urlsplit(word)
    here = parts.scheme == "file" and parts.netloc in ("", "localhost")
    return Path(unquote(parts.path)) if here else Path(word)
