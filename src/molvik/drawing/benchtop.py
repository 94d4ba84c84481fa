"""The bench from above: plugs, fuses, relays, devices and earths, each with where probes go.

What has a face is drawn from its wire side, as it is probed from behind.
"""

import math
from collections.abc import Iterable, Iterator, Sequence
from typing import Literal, NamedTuple

from molvik.drawing.face import face_scene, face_size, frame_of
from molvik.drawing.faces import Plug
from molvik.drawing.lettering import width_of
from molvik.drawing.scene import Area, Box, Oval, Path, Pen, Point, Rect, Scene, Shape, Text, around

STEP = 27.0
"""From cavity to cavity, px: each has its number, and takes a click."""

GAP, HEAD, TITLE, FOOT = 14.0, 8.0, 18.0, 10.0
SPOT, SPOT_HIGH = 28.0, 24.0
"""Least width and height of a terminal that takes a probe."""

FUSE_WIDE, FUSE_HIGH, CLIP_HIGH = 52.0, 26.0, 16.0
POST = 13.0
STUD = 19.0

Sort = Literal["battery", "fuse", "relay", "plug", "device", "earth"]
ORDER: tuple[Sort, ...] = ("battery", "fuse", "relay", "plug", "device", "earth")


class Spot(NamedTuple):
    """Where a probe goes. ref: "F3/in"; words: what is said of it."""

    ref: str
    name: str
    words: str


class Stand(NamedTuple):
    """What stands on the bench. title: above it; rated: on a fuse; paint: of its body, empty for
    none; plug: of what has a face; out: pulled or unplugged; words: what is said of it, and what a
    click on it does.
    """

    code: str
    title: str
    sort: Sort
    spots: tuple[Spot, ...] = ()
    plug: Plug | None = None
    rated: str = ""
    paint: str = ""
    out: bool = False
    words: str = ""


Drawn = Iterator[Shape | Area]


def benchtop_scene(stands: Iterable[Stand], width: float, first: Sequence[str] = ()) -> Scene:
    """Return the bench for a width: by sort, from left to right and on in the next row. first: the
    codes of what stands before all else.
    """
    shapes: list[Shape] = []
    areas: list[Area] = []
    x, y, deep = GAP, HEAD, 0.0
    for group in _grouped(stands, width - 2 * GAP, first):
        wide, high = _size(group)
        if x > GAP and x + wide > width - GAP:
            x, y, deep = GAP, y + deep + GAP, 0.0
        for made in _group(group, Box(x, y, wide, high)):
            (areas if isinstance(made, Area) else shapes).append(made)  # type: ignore[arg-type]
        x, deep = x + wide + GAP, max(deep, high)
    return Scene(width, y + deep + FOOT, tuple(shapes), tuple(areas))


def _grouped(
    stands: Iterable[Stand], width: float, first: Sequence[str]
) -> Iterator[tuple[Stand, ...]]:
    """Yield what is drawn as one: fuses side by side in a box, all else by itself."""
    rank = {code: place for place, code in enumerate(reversed(first), 1)}
    found = sorted(stands, key=lambda one: (-rank.get(one.code, 0), ORDER.index(one.sort)))
    fuses = [one for one in found if one.sort == "fuse"]
    beside = next((_size((one,))[0] + GAP for one in found if one.sort == "battery"), 0.0)
    most = max(1, int((width - beside - 12) // FUSE_WIDE))
    for one in found:
        if one.sort != "fuse":
            yield (one,)
        elif one is fuses[0]:
            for begin in range(0, len(fuses), most):
                yield tuple(fuses[begin : begin + most])


def _size(group: Sequence[Stand]) -> tuple[float, float]:
    one = group[0]
    title = width_of(_titled(one), 12, "B612-Bold") + 8
    match one.sort:
        case "fuse":
            return len(group) * FUSE_WIDE + 12, TITLE + FUSE_HIGH + 2 * CLIP_HIGH + 30
        case "battery":
            return max(112.0, title), TITLE + 62
        case "earth":
            return max(2 * STUD, title), TITLE + 2 * STUD
        case "plug" if one.plug is not None:
            wide, high = face_size(one.plug.connector, STEP)
            return max(wide, title), high + TITLE
        case _:
            spots = sum(_spot_width(spot) + 4 for spot in one.spots)
            return max(spots + 12, title), TITLE + SPOT_HIGH + 22


def _titled(one: Stand) -> str:
    return f"{one.title} · out" if one.out else one.title


def _group(group: Sequence[Stand], box: Box) -> Drawn:
    match group[0].sort:
        case "fuse":
            yield from _fuses(group, box)
            return
        case "battery":
            yield from _battery(group[0], box)
        case "earth":
            yield from _earth(group[0], box)
        case "plug":
            yield from _plug(group[0], box)
        case _:
            yield from _device(group[0], box)


def _title(one: Stand, box: Box, align: Literal["left", "middle"] = "left") -> Text:
    role = "stop" if one.out else "ink"
    return Text(_titled(one), box._replace(height=TITLE), 12, role, align, bold=True)


def _name(one: Stand, box: Box) -> Area:
    """Return its name as what is clicked for the part itself: below it are terminals."""
    return Area(box._replace(height=TITLE), one.code, one.words)


def _body(one: Stand, box: Box, radius: float = 6.0) -> Rect:
    """Return an outline: broken where it is pulled."""
    pen = Pen("stop", 1.6, (5.0, 3.0)) if one.out else Pen("faint", 2.0)
    return Rect(box, pen, "side", radius)


def _spot(spot: Spot, box: Box) -> Drawn:
    yield Rect(box, Pen("faint", 1.2), "sheet", 3.0)
    yield Text(spot.name, box, 11, "ink", whole=True)
    yield Area(box.grown(2, 3), spot.ref, spot.words)  # no gap in which a click is of the part


def _spot_width(spot: Spot) -> float:
    return max(SPOT, width_of(spot.name, 11, "B612-Regular") + 12)


def _device(one: Stand, box: Box) -> Drawn:
    """A device or relay: its terminals in its body."""
    yield _title(one, box)
    yield _name(one, box)
    body = Box(box.x, box.y + TITLE, box.width, box.height - TITLE)
    yield _body(one, body, 3.0 if one.sort == "relay" else 9.0)
    x = body.x + 6
    for spot in one.spots:
        wide = _spot_width(spot)
        yield from _spot(spot, Box(x, body.y + (body.height - SPOT_HIGH) / 2, wide, SPOT_HIGH))
        x += wide + 4
    yield Area(box, one.code, one.words)


def _battery(one: Stand, box: Box) -> Drawn:
    yield _title(one, box)
    yield _name(one, box)
    body = Box(box.x, box.y + TITLE + 14, box.width, box.height - TITLE - 14)
    yield _body(one, body, 3.0)
    for place, spot in enumerate(one.spots):
        share = (place + 0.5) / len(one.spots)
        post = around(Point(body.x + share * body.width, body.y + 6), POST, POST)
        yield Rect(post, Pen("faint", 1.4), "sheet", 4.0)
        yield Text(spot.name, post, 14, "ink", bold=True, whole=True)
        yield Area(post.grown(2, 2), spot.ref, spot.words)
    yield Area(box, one.code, one.words)


def _earth(one: Stand, box: Box) -> Drawn:
    yield _title(one, box, "middle")
    stud = around(Point(box.middle.x, box.y + TITLE + STUD), STUD - 1, STUD - 1)
    yield Oval(stud, Pen("faint", 2.0), "side")
    yield Oval(stud.grown(-7, -7), Pen("faint", 1.2), "sheet")
    yield Text(one.code, stud, 10, "ink", bold=True, whole=True)
    for spot in one.spots:
        yield Area(stud, spot.ref, spot.words)


def _plug(one: Stand, box: Box) -> Drawn:
    plug = one.plug
    assert plug is not None
    yield _title(one, box)
    yield _name(one, box)
    frame = frame_of(plug.connector, box.width, box.height - TITLE, STEP)
    shell = frame.shell
    placed = frame._replace(shell=shell._replace(x=shell.x + box.x, y=shell.y + box.y + TITLE))
    drawn = face_scene(plug.connector, plug.cavities, "wire side", placed)
    yield from drawn.shapes
    if one.out:
        yield Rect(placed.shell.grown(3, 3), Pen("stop", 2.0, (5.0, 3.0)), "", 9.0)
    yield from drawn.areas
    yield Area(box, one.code, one.words)


def _fuses(group: Sequence[Stand], box: Box) -> Drawn:
    yield Text("Fuses", box._replace(height=TITLE), 12, "ink", "left", bold=True)
    yield Rect(
        Box(box.x, box.y + TITLE, box.width, box.height - TITLE), Pen("faint", 2.0), "side", 6.0
    )
    for place, one in enumerate(group):
        x = box.x + 6 + place * FUSE_WIDE
        top = box.y + TITLE + 5
        body = Box(x + 3, top + CLIP_HIGH, FUSE_WIDE - 6, FUSE_HIGH)
        for spot, at in zip(one.spots, (top, body.bottom), strict=True):
            clip = Box(x + 8, at, FUSE_WIDE - 16, CLIP_HIGH)
            yield Rect(clip, Pen("faint", 1.0), "sheet", 2.0)
            yield Text(spot.name, clip, 10, "faint", whole=True)
            yield Area(clip, spot.ref, spot.words)
        if one.out:
            yield Rect(body, Pen("stop", 1.6, (4.0, 3.0)), "sheet", 3.0)
        else:
            yield Rect(body, Pen("faint", 1.4), one.paint or "sheet", 3.0)
            # On its own ground: a number on any colour of body can be read.
            yield Rect(around(body.middle, 14, 9), None, "sheet", 2.0)
        words = "out" if one.out else one.rated
        yield Text(words, body, 12, "stop" if one.out else "ink", bold=True, whole=True)
        name = Box(x, body.bottom + CLIP_HIGH, FUSE_WIDE, 18)
        yield Text(one.code, name, 11, "stop" if one.out else "ink")
        yield Area(name, one.code, one.words)
        yield Area(body, one.code, one.words)


# the probes

HANDLE = 80.0
"""What a probe that points downwards needs above its tip, px."""

Probe = tuple[str, str]
"""The reference of where a probe is, and the role of its colour."""

RED, BLACK = "stop", "ink"


def probes_scene(under: Scene, probes: Sequence[Probe], marked: Sequence[str] = ()) -> Scene:
    """Return both probes where they are, with their leads to the lower right, where the meter is.
    marked: references that are ringed.
    """
    shapes: list[Shape] = []
    at = {area.ref: area for area in reversed(under.areas)}
    whole = {area.ref: area for area in under.areas}  # a name, then all of it
    for ref in marked:
        if ref in whole:
            shapes.append(Rect(whole[ref].box.grown(3, 3), Pen("copper", 2.5), "", 6.0))
    for place, (ref, role) in enumerate(probes):
        if ref not in at:
            continue
        tip = at[ref].middle
        # Away from the number and the title above it, and from the other probe.
        down = 1.0 if tip.y < HANDLE or place else -1.0
        back = Point(tip.x + 17, tip.y + 24 * down)
        grip = Point(tip.x + 38, tip.y + 54 * down)
        end = Point(under.width - 60 + 24 * place, under.height - 2)
        shapes.append(Path((tip, back), Pen("faint", 2.5, round=True)))
        shapes.append(Path(_lead(grip, end), Pen(role, 3.0, round=True)))
        shapes.append(Path((back, grip), Pen("sheet", 10.0, round=True)))
        shapes.append(Path((back, grip), Pen(role, 8.0, round=True)))
        shapes.append(Oval(around(tip, 3.5, 3.5), Pen(role, 2.0), "sheet"))
    return Scene(under.width, under.height, tuple(shapes))


def _lead(begin: Point, end: Point, pieces: int = 18) -> tuple[Point, ...]:
    """Return a lead that hangs from a probe: a curve of Bézier in straight pieces."""
    lift = min(70.0, 20 + math.dist(begin, end) / 4)
    one = Point(begin.x + lift, max(4.0, begin.y - lift))
    two = Point(end.x, max(begin.y, end.y - 140))
    found = []
    for number in range(pieces + 1):
        t = number / pieces
        weights = ((1 - t) ** 3, 3 * t * (1 - t) ** 2, 3 * t * t * (1 - t), t**3)
        found.append(
            Point(
                sum(w * p.x for w, p in zip(weights, (begin, one, two, end), strict=True)),
                sum(w * p.y for w, p in zip(weights, (begin, one, two, end), strict=True)),
            )
        )
    return tuple(found)
