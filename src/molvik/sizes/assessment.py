"""How a wire stands: it fails, is tight, passes, or cannot be judged; and why, in words."""

from typing import Literal, NamedTuple

from molvik.model.parts import Wire, WireSize
from molvik.sizes.sizing_case import FAR_OVER, Criterion
from molvik.sizes.wire import Sizing
from molvik.wording import figures

Group = Literal["fails", "tight", "passes", "not judged"]

GROUPS: tuple[tuple[Group, str, str], ...] = (
    ("fails", "Fails", "stop"),
    ("tight", "Tight", "live_text"),
    ("passes", "Passes", "proved"),
    ("not judged", "Not judged", "faint"),
)
"""How wires can stand, what it is called, and its role, the worst first."""

SHORTER = {"voltage drop": "drop"}
"""Criteria that are told in a word, before their figures."""

FAILS_WITH: dict[str, str] = {
    "strength": "it is too thin to be handled",
    "heat": "it gets too hot",
    "terminal": "its terminal is too small",
    "voltage drop": "its voltage drop is too large",
    "cranking": "cranking heats it too much",
    "fuse": "its fuse is too large for it",
    "protection": "no fuse protects it",
}
"""What is wrong when a criterion fails."""


class Standing(NamedTuple):
    """How a wire stands. used: of the limit that is nearest, as a share; None when not judged.
    because: what makes it so, in a few words.
    """

    group: Group
    used: float | None
    because: str


def group_of(sizing: Sizing | None) -> Group:
    """Return how a wire stands, without the words. sizing: None for one without a size."""
    if sizing is None:
        return "not judged"
    if not sizing.passes:
        return "fails"
    if sizing.unknown:
        return "not judged"
    return "tight" if sizing.is_tight else "passes"


def used_of(sizing: Sizing | None) -> float | None:
    """Return the share of its nearest limit that a wire uses; None when it is not judged."""
    if sizing is None or sizing.binding is None or (sizing.passes and sizing.unknown):
        return None
    return sizing.binding.used


def standing(sizing: Sizing | None) -> Standing:
    """Return how a wire stands. sizing: None for one without a size."""
    if sizing is None:
        return Standing("not judged", None, "no size")
    tight = sizing.binding
    assert tight is not None  # strength is always judged
    if not sizing.passes:
        failing = (one for one in sizing.criteria if not one.passes)
        worst_first = sorted(failing, key=lambda criterion: criterion.margin)
        also = ", ".join(_word(one) for one in worst_first[1:])
        return Standing("fails", tight.used, short(tight) + (f"; {also}" if also else ""))
    if sizing.unknown:
        missing = " and ".join(what.removeprefix("its ") for what in sizing.unknown)
        return Standing("not judged", None, f"{missing} not known")
    return Standing(group_of(sizing), tight.used, short(tight))


def _word(criterion: Criterion) -> str:
    return SHORTER.get(criterion.name, criterion.name)


def short(criterion: Criterion) -> str:
    """Return a criterion with its figures in a few words."""
    if criterion.name == "strength":
        return f"strength: least {figures(criterion.amount, 2)} mm²"
    if criterion.name == "protection":
        return "no fuse protects it"
    if criterion.margin <= FAR_OVER:
        return f"{_word(criterion)} far above the limit"
    return f"{_word(criterion)} {criterion.figures}"


def verdict(wire: Wire, sizing: Sizing | None, least: WireSize | None) -> tuple[str, str]:
    """Return the verdict on a wire in a sentence, the size it needs first, and its role.

    least: the smallest size of its system that passes, None where none does or it is not known.
    """
    name = wire.function or wire.code
    if sizing is None:
        needs = f" The smallest that passes: {least}." if least else ""
        return f"{name} has no size yet.{needs}", "look"
    if not sizing.passes:
        return _fails(name, sizing, least), "bad"
    if sizing.unknown:
        return f"{name} is not judged yet: type {' and '.join(sizing.unknown)}.", "look"
    tight = sizing.binding
    assert tight is not None
    words = f"{name} passes with {sizing.size}: of {tight.name} {tight.used:.0%} is used, the most."
    return words, "look" if group_of(sizing) == "tight" else "proved"


def _reason(criterion: Criterion) -> str:
    if criterion.name == "fuse" and not criterion.has.endswith("fuse"):
        return f"in a fault it must bear {criterion.has}"
    return FAILS_WITH[criterion.name]


def _fails(name: str, sizing: Sizing, least: WireSize | None) -> str:
    """Return why a wire fails, and what it needs."""
    failing = [one for one in sizing.criteria if not one.passes]
    reasons = [_reason(one) for one in sorted(failing, key=lambda one: one.margin)]
    joined = " and ".join(filter(None, (", ".join(reasons[:-1]), reasons[-1])))
    if all(one.name == "terminal" for one in failing):
        return f"{name}: {sizing.size} is enough, but {joined}."
    if any(one.name == "protection" for one in failing):
        return f"{name}: {joined}. No size is enough for that: put a fuse at its battery end."
    if least is None:
        return f"{name}: no single size passes. With {sizing.size} {joined}."
    return f"{name} needs {least}, has {sizing.size}: {joined}."
