"""In what two values of a job differ, in words."""

from typing import Any

from molvik.model.job import Job
from molvik.wording import some

MOST = 6

NOT_TOLD = ("id", "spent")
"""What nobody sees of a job."""

CALLED = {
    "accepted": ("accepted finding", "accepted findings"),
    "log": ("line of the log", "lines of the log"), "stock": ("thing in stock", "things in stock"),
    "board": ("place on the board", "places on the board"),
    "left_out": ("thing left out", "things left out"), "repins": ("repin set", "repin sets"),
    "bundles": ("bundle", "bundles"), "taken": ("cut", "cuts"),
}  # fmt: skip
"""What fields are called, one and several, where it is not their name."""


def differing(old: Job, new: Job) -> str:
    """Return in what a job differs from an older value of it: "3 wires changed, 1 photo more";
    empty where in nothing that is seen.
    """
    found: list[str] = []
    for name in old.__struct_fields__:
        was, now = getattr(old, name), getattr(new, name)
        if was is not now and was != now and name not in NOT_TOLD:
            found += _things(name, was, now) if isinstance(was, tuple) else [f"the {name}"]
    return some(found, MOST)


def _things(name: str, was: tuple[Any, ...], now: tuple[Any, ...]) -> list[str]:
    old = {getattr(one, "code", one): one for one in was}
    new = {getattr(one, "code", one): one for one in now}
    changed = sum(key in new and new[key] != one for key, one in old.items())
    more, fewer = len(new.keys() - old.keys()), len(old.keys() - new.keys())
    counts = ((changed, "changed"), (more, "more"), (fewer, "fewer"))
    one, several = CALLED.get(name, (name.removesuffix("s"), name))
    return [f"{count} {several if count > 1 else one} {how}"
            for count, how in counts if count] or [f"the order of {several}"]  # fmt: skip
