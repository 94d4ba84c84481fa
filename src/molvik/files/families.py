"""The user's own housings: kept in the data folder, shared as files."""

import re
from pathlib import Path

import msgspec

from molvik.files.errors import JobFileError
from molvik.files.places import data_home
from molvik.files.writing import reason, small_file, write_file
from molvik.model.families import Family
from molvik.model.geometry import grid_problem
from molvik.pinouts.families import FAMILIES

SUFFIX = ".molvik-housing"


def own_folder() -> Path:
    """Return where the user's own housings lie."""
    return data_home() / "molvik" / "housings"


def read_family(path: Path) -> Family:
    """Read a shared housing; JobFileError says what is wrong with the file."""
    try:
        family = msgspec.json.decode(small_file(path), type=Family)
    except OSError as error:
        raise JobFileError(f"{path.name} cannot be read: {reason(error)}.") from error
    except (msgspec.DecodeError, UnicodeDecodeError, RecursionError) as error:
        raise JobFileError(f"{path.name} is not a housing of Molvik: {error}.") from error
    problem = grid_problem(family.grid) or ("" if family.name.strip() else "it has no name")
    if problem:
        raise JobFileError(f"{path.name} cannot be used: {problem}")
    return family


def write_family(family: Family, path: Path) -> None:
    """Write a housing to a file to be shared."""
    write_file(path, msgspec.json.format(msgspec.json.encode(family), indent=1) + b"\n")


def keep_family(family: Family) -> Path:
    """Keep a housing among the user's own, and return its file. Raises JobFileError."""
    folder = own_folder()
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise JobFileError(f"{folder} cannot be made: {error.strerror or error}.") from error
    name = re.sub(r"[^\w-]+", "-", family.name.lower()).strip("-") or "housing"
    path = folder / f"{name}{SUFFIX}"
    write_family(family, path)
    return path


def all_families() -> tuple[Family, ...]:
    """Return the user's own housings, then those that ship; files that cannot be read are left."""
    own = []
    for path in sorted(own_folder().glob(f"*{SUFFIX}")):
        try:
            own.append(read_family(path))
        except JobFileError:
            continue  # opening it by hand says why
    return (*own, *FAMILIES)
