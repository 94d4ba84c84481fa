"""Lengths on a photo: one that was measured gives the scale for the others."""

import math
from typing import NamedTuple

from molvik.model.photos import Mark, Photo

AGREE = 0.1
"""Two measured lengths whose scales differ by more than this do not lie in one plane (our
choice)."""


class Length(NamedTuple):
    """length_m: of a mark on a photo, m. measured: by hand, or reckoned from one that was."""

    length_m: float
    measured: bool


def pixels(photo: Photo, mark: Mark) -> float:
    """Return how long a mark is on its photo, in pixels."""
    return math.hypot((mark.x2 - mark.x1) * photo.width, (mark.y2 - mark.y1) * photo.height)


def scale_m(photo: Photo) -> float | None:
    """Return metres for a pixel, by the longest measured length; None when none was measured."""
    known = [m for m in photo.marks if m.kind == "length" and m.length_m and pixels(photo, m) > 0]
    if not known:
        return None
    longest = max(known, key=lambda mark: pixels(photo, mark))
    assert longest.length_m is not None
    return longest.length_m / pixels(photo, longest)


def lengths(photo: Photo) -> dict[int, Length]:
    """Return the lengths of the length marks, and of what is traced, by their place among the
    marks.

    A length that was not measured is reckoned, which holds for what lies flat in the same plane.
    """
    scale = scale_m(photo)
    found: dict[int, Length] = {}
    for index, mark in enumerate(photo.marks):
        if mark.kind not in ("length", "trace"):
            continue
        if mark.length_m and mark.kind == "length":
            found[index] = Length(mark.length_m, True)
        elif scale is not None:
            found[index] = Length(scale * pixels(photo, mark), False)
    return found


def contradiction(photo: Photo) -> str:
    """Say when two measured lengths do not agree on the scale; empty when they do."""
    scale = scale_m(photo)
    for at, length in lengths(photo).items():
        drawn = pixels(photo, photo.marks[at])
        if scale is None or not length.measured or drawn <= 0:
            continue
        if abs(length.length_m / drawn / scale - 1) > AGREE:
            return (
                "The measured lengths do not agree: they do not lie flat in one plane, or one was "
                "mistyped. Estimated lengths follow the longest."
            )
    return ""
