"""What was practised: how often each kind of fault was found; what is weak comes more often.

It is of the person, not of the job, and is kept beside it.
"""

from collections import defaultdict

import msgspec

from molvik.proving.practice.hiding import NOTHING

KINDS = (
    "open wire",
    "high resistance",
    "bad earth",
    "blown fuse",
    "swapped cavities",
    "short",
    "sticking relay",
    "the part itself",
    NOTHING,
)
MOST_KEPT = 500
"""So many rounds are kept, the latest."""

RECENT = 6
"""Of so many of the latest rounds of a kind it is told whether it is weak (our choice)."""

STEEPNESS = 3.0
"""So many times more often than what is always found comes what never is (our choice)."""


class Played(msgspec.Struct, frozen=True, omit_defaults=True):
    """One round. right: found without naming anything that was sound; minutes: of the bench;
    program: what the program would have taken; at: local time, ISO 8601.
    """

    kind: str
    degree: str
    right: bool
    minutes: float
    program: float
    at: str


class Record(msgspec.Struct, frozen=True, omit_defaults=True):
    """All rounds that are kept, the oldest first."""

    rounds: tuple[Played, ...] = ()

    def with_round(self, played: Played) -> "Record":
        """Return it with one more round."""
        return Record((*self.rounds, played)[-MOST_KEPT:])

    @property
    def by_kind(self) -> dict[str, tuple[int, int]]:
        """How many were right, of how many, of each kind that was practised."""
        found: dict[str, list[bool]] = defaultdict(list)
        for one in self.rounds:
            found[one.kind].append(one.right)
        return {
            kind: (sum(found[kind]), len(found[kind])) for kind in (*KINDS, *found) if kind in found
        }

    @property
    def weights(self) -> dict[str, float]:
        """How often each kind is to come: what was missed lately more often; new ones, too."""
        found = {}
        for kind in KINDS:
            latest = [one.right for one in self.rounds if one.kind == kind][-RECENT:]
            missed = 1.0 - (sum(latest) + 1) / (len(latest) + 2)  # the rule of succession
            found[kind] = 1.0 + (STEEPNESS - 1.0) * missed
        return found

    @property
    def weakest(self) -> str:
        """The kind that was missed most lately, empty where none was."""
        lately = {
            kind: [one.right for one in self.rounds if one.kind == kind][-RECENT:]
            for kind in self.by_kind
        }
        missed = {kind: 1 - sum(some) / len(some) for kind, some in lately.items()}
        worst = max(missed, key=lambda kind: missed[kind], default="")
        return worst if worst and missed[worst] > 0 else ""


def read_record(data: bytes) -> Record:
    """Read a record as it is kept. Raises ValueError for what is none."""
    try:
        return msgspec.json.decode(data, type=Record)
    except msgspec.DecodeError as error:
        raise ValueError(f"It is not a record of practice: {error}") from error


def written(record: Record) -> bytes:
    """Return a record as it is kept: JSON."""
    return msgspec.json.format(msgspec.json.encode(record), indent=1)
