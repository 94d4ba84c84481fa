"""What sits on a stretch and how far along it, and how exactly lengths are to be met, as typed."""

import re
from typing import get_args

from molvik.model.routing import MarkKind, RunMark
from molvik.numbers import read_number
from molvik.parsing.quantities import read_length_m

KINDS: tuple[MarkKind, ...] = get_args(MarkKind)

MARKS_HOW = f"{', '.join(KINDS)}, each with how far from its start: clip 80, label 200 ENGINE"


def read_marks(text: str) -> tuple[RunMark, ...]:
    """Read what sits on a stretch: "clip 80, tie 150 mm, label 0.2 m ENGINE"; a bare number is mm.

    Raises ValueError for what is not understood.
    """
    found: list[RunMark] = []
    for part in filter(None, (one.strip() for one in re.split(r"[,;]", text))):
        read = re.fullmatch(r"(\w+)\s+(\d+(?:\.\d+)?)\s*(mm|cm|m|in)?(?:\s+(.*))?", part)
        kinds = [kind for kind in KINDS if read and kind.startswith(read[1].lower())]
        if read is None or len(kinds) != 1:
            raise ValueError(f"“{part}” is not understood. Type {MARKS_HOW}.")
        at_m = read_length_m(f"{read[2]} {read[3] or 'mm'}") if float(read[2]) else 0.0
        found.append(RunMark(kinds[0], at_m, (read[4] or "").strip()))
    return tuple(sorted(found, key=lambda mark: mark.at_m))


def marks_text(marks: tuple[RunMark, ...]) -> str:
    """Write what sits on a stretch as it is typed."""
    return ", ".join(f"{m.kind} {m.at_m * 1000:g} {m.text}".strip() for m in marks)


TOLERANCES_HOW = "±5 to 300, ±10 to 1000, ±15 above"

LONGEST_MM = 1e6


def read_tolerances(text: str) -> tuple[tuple[float, float], ...]:
    """Read how exactly lengths are to be met, mm: "±5 to 300, ±10 to 1000, ±15 above".

    Raises ValueError for what is not understood, and for what does not end with all longer ones.
    """
    found: list[tuple[float, float]] = []
    for part in filter(None, (one.strip() for one in re.split(r"[,;]", text))):
        read = re.fullmatch(
            r"(?:±|\+/-|\+-)?\s*([\d.]+)\s*(?:mm)?\s*(?:to\s+([\d.]+)|above)?", part
        )
        if read is None:
            raise ValueError(f"“{part}” is not understood. Type {TOLERANCES_HOW}.")
        off = read_number(read[1], "tolerance", "5", least=0.1, most=1000)
        up_to = read_number(read[2], "length", "300", least=1, most=LONGEST_MM) if read[2] else 0.0
        found.append((up_to or LONGEST_MM, off))
    lengths = [up_to for up_to, _ in found]
    if not found or lengths != sorted(set(lengths)) or lengths[-1] != LONGEST_MM:
        raise ValueError(
            f"Tolerances go from short lengths to long ones, and end with all above: type "
            f"{TOLERANCES_HOW}."
        )
    return tuple(found)


def tolerances_text(classes: tuple[tuple[float, float], ...]) -> str:
    """Write how exactly lengths are to be met as it is typed, mm."""
    return ", ".join(
        f"±{off:g} above"
        if number == len(classes) - 1 and number
        else f"±{off:g}"
        if len(classes) == 1
        else f"±{off:g} to {up_to:g}"
        for number, (up_to, off) in enumerate(classes)
    )
