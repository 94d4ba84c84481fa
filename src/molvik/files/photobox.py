"""Where the bytes of a job's photos are, from the moment they are added.

A photo that was just added lies in a folder of the recovery copy until the window is closed, so it
survives a crash and undo, and no memory is filled with pictures; the others lie in the job file.
"""

import contextlib
import os
import shutil
from collections.abc import Callable, Iterable
from pathlib import Path
from typing import Protocol

from molvik.files.photos import PhotoError, Picture, read_photo
from molvik.files.writing import reason
from molvik.model.photos import Photo


class PhotoFile(Protocol):
    """A file that holds photos. path: where it is. names: of those it has. lost: that its job has
    and it had not.
    """

    path: Path
    lost: frozenset[str]

    @property
    def names(self) -> frozenset[str]:
        """Return what it has."""

    def photo(self, name: str) -> bytes | None:
        """Return a photo's bytes, None when it cannot be read."""

    def close(self) -> None:
        """Let go of the file."""


class PhotoBox:
    """The photos of a job: those of the file it came from, and a folder for the new ones.

    folder: None where none can be added. file: the file the job was opened from or last saved to.
    lost: pictures that are known to be nowhere; their loss was told when the job was opened.
    """

    def __init__(self, folder: Path | None = None, file: PhotoFile | None = None) -> None:
        self.folder, self.file = folder, file
        self.lost: frozenset[str] = file.lost if file is not None else frozenset()

    def add(self, picture: Picture) -> Photo:
        """Keep a picture until it is saved, and return it as a photo without a code.

        Raises PhotoError.
        """
        place = self._place(picture.file)
        if place is None:
            raise PhotoError("There is no folder here to keep new photos in until they are saved.")
        try:
            if not place.exists():
                place.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
                part = place.with_suffix(".part")
                with open(part, "wb", opener=_private) as file:
                    file.write(picture.data)
                    file.flush()
                    os.fsync(file.fileno())
                part.replace(place)
        except OSError as error:
            raise PhotoError(
                f"The photo was not added: {reason(error)} in {place.parent}, where new photos "
                "are kept until the job is saved. Make room there, and add it again."
            ) from error
        return Photo("", picture.file, picture.width, picture.height, picture.taken)

    def has(self, name: str) -> bool:
        """Return whether a photo is somewhere, without reading it."""
        place = self._place(name)
        kept = place is not None and place.is_file()
        return kept or (self.file is not None and name in self.file.names)

    def read(self, name: str) -> bytes | None:
        """Return the bytes of a photo, None when it is nowhere to be found."""
        place = self._place(name)
        if place is not None:
            with contextlib.suppress(OSError):
                return place.read_bytes()
        return self.file.photo(name) if self.file is not None else None

    def take_over(self, folder: Path) -> None:
        """Have the photos of another folder in here too. Raises OSError."""
        if self.folder is not None and folder.is_dir():
            shutil.copytree(folder, self.folder, copy_function=_linked, dirs_exist_ok=True)

    def close(self) -> None:
        """Let go of the file."""
        if self.file is not None:
            self.file.close()
            self.file = None

    def _place(self, name: str) -> Path | None:
        return None if self.folder is None else self.folder / Path(name).name


def _linked(source: str, to: str) -> None:
    """Give a file another name, which takes no time; nothing writes into photos. Else copy it."""
    try:
        os.link(source, to)
    except OSError:  # there already, another disk, or not ours
        shutil.copy2(source, to)


def _private(name: str, flags: int) -> int:
    return os.open(name, flags, 0o600)


def read_photos(
    paths: Iterable[Path], box: PhotoBox, stop: Callable[[], bool], told: Callable[[int], None]
) -> tuple[list[Photo], list[str]]:
    """Read many photos into a box; return them and, for those that cannot be taken, why.

    stop: asked before each. told: gets the number done so far.
    """
    photos: list[Photo] = []
    problems: list[str] = []
    for number, path in enumerate(paths, start=1):
        if stop():
            break
        try:
            photos.append(box.add(read_photo(path)))
        except PhotoError as error:
            problems.append(str(error))
        told(number)
    return photos, problems
