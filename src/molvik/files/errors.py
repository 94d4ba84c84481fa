"""What can be wrong with a job file; every text is for the user."""

from collections.abc import Collection
from typing import Literal

Change = Literal["deleted", "replaced", "changed"]


class JobFileError(Exception):
    """A file that cannot be opened or written; the text says why and what to do."""


class DamagedError(JobFileError):
    """A file that is not a whole job; something of it may still be read."""


class ChangedOutsideError(JobFileError):
    """The file is not what it was when it was opened. change: what happened to it."""

    def __init__(self, name: str, change: Change) -> None:
        self.change = change
        happened = {
            "deleted": f"{name} was deleted or moved since it was opened here",
            "replaced": f"{name} was replaced by another file since it was opened here",
            "changed": f"{name} was changed by another program since it was opened here",
        }[change]
        super().__init__(f"{happened}. It was not written over; your work is still open.")


class InTheWayError(JobFileError):
    """A file lies where a job is to be written, and nobody said that it may be replaced."""

    def __init__(self, name: str) -> None:
        super().__init__(f"{name} is there already. It was not written over.")


class PhotosMissingError(JobFileError):
    """Photos of the job cannot be read any more. names: their pictures."""

    def __init__(self, name: str, codes: Collection[str], names: Collection[str]) -> None:
        self.names = frozenset(names)
        which = ", ".join(list(codes)[:8]) + (" and more" if len(codes) > 8 else "")
        many = f"{len(codes)} photos" if len(codes) > 1 else "A photo"
        super().__init__(
            f"{many} of the job cannot be read any more: {which}. {name} was not written, "
            "so that what it holds stays as it is."
        )
