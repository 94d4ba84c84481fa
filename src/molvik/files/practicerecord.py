"""The record of practice: a small file of the person's, beside all jobs."""

import os
from pathlib import Path

from molvik.files.places import data_home
from molvik.proving.practice.record import Played, Record, read_record, written


def record_path() -> Path:
    """Return where the record lies."""
    return data_home() / "molvik" / "practice.json"


def load_record() -> Record:
    """Return the record, empty where there is none yet. Raises OSError, and ValueError for a file
    that is damaged: it is left as it is.
    """
    try:
        return read_record(record_path().read_bytes())
    except FileNotFoundError:
        return Record()


def add_round(played: Played) -> Record:
    """Add a round to the record as it lies there, which another window may have added to; return
    it. Raises OSError, and ValueError for a damaged file: nothing is written then.
    """
    record = load_record().with_round(played)
    path = record_path()
    path.parent.mkdir(parents=True, exist_ok=True)
    beside = path.with_name(f"{path.name}.{os.getpid()}")
    beside.write_bytes(written(record))
    os.replace(beside, path)
    return record
