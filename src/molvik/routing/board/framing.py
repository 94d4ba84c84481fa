"""The legend, the ruler and the title block of a board."""

from collections.abc import Iterator, Sequence
from typing import NamedTuple

from molvik.drawing.scene import Box, Path, Pen, Point, Rect, Shape, Text
from molvik.model.job import Job
from molvik.model.routing import Revision
from molvik.parsing.marks import tolerances_text
from molvik.reference.coverings import BARE, COVERINGS
from molvik.routing.board.dimensions import FROM_WHAT
from molvik.routing.board.lay import Board
from molvik.routing.board.patterns import covered, held, hold, node_kind, node_mark, zone_mark
from molvik.routing.board.revisions import standing, state_of
from molvik.routing.drawing import Plug, plug_shapes
from molvik.routing.passing import PASSES, passes

RULER_MM = 100.0
LINE_MM = 11.0
BLOCK_MM = 5 * LINE_MM + 4
"""How high the title block is, and a legend of four rows."""

BOX = Pen("ink", 0.4)


class Heading(NamedTuple):
    """What the title block says. job, version: of the job, with its fingerprint; by: who drew it;
    on: the date. revision: which was given out last, in words; revisions: all, the oldest first.
    """

    job: str = ""
    version: str = ""
    by: str = ""
    on: str = ""
    tolerances: tuple[tuple[float, float], ...] = ((1e6, 15.0),)
    revision: str = ""
    revisions: tuple[Revision, ...] = ()


def heading_of(job: Job, loom: str, on: str) -> Heading:
    """Return what the title block says of a loom. on: the date."""
    revisions = next(one.revisions for one in job.routing.looms if one.code == loom)
    return Heading(
        job.title,
        f"as of {state_of(job, loom)}",
        job.settings.measured_by,
        on,
        job.settings.tolerances_mm,
        standing(job, loom).words,
        revisions,
    )


def ruler(x: float, y: float) -> list[Shape]:
    """Return a ruler of 100 mm from a place on: measured on paper, it says what the printer did."""
    pen = Pen("ink", 0.3)
    shapes: list[Shape] = [Path((Point(x, y), Point(x + RULER_MM, y)), pen)]
    for at in range(0, int(RULER_MM) + 1, 10):
        high = 5.0 if at % 50 == 0 else 3.0
        shapes.append(Path((Point(x + at, y), Point(x + at, y - high)), pen))
    words = "100 mm: measure me"
    shapes.append(Text(words, Box(x + RULER_MM + 2, y - 6, 45, 6), 4, "ink", "left", whole=True))
    return shapes


Line = tuple[str, str]
"""What is explained: of which sort, and which of them."""


LOCK, KEY = "lock of a plug, seen from above", "key of a plug"
SEEN = ("top", "left", "right")
"""On which side lock or key of a plug are seen from above."""

SAMPLES = {LOCK: Plug(12.0, 10.0, (), "", lock="top"), KEY: Plug(12.0, 10.0, (), "", key="top")}


def explained(board: Board) -> list[Line]:
    """Return what the legend explains: what is on the board, and nothing else."""
    found: dict[Line, None] = {}
    for laid in board.runs:
        key = laid.run.covering if laid.run.covering in COVERINGS else ""
        found["covering", key] = None
        for one, _, _ in held(laid):
            found["hold", one.kind] = None
        for kind in passes(laid.zone):
            found["zone", kind] = None
    plugs = [plug for plug, _ in board.plugs.values()]
    if any(plug.lock in SEEN for plug in plugs):
        found["plug", LOCK] = None
    if any(plug.key in SEEN for plug in plugs):
        found["plug", KEY] = None
    for joint in board.joints:
        if joint.code not in board.plugs:
            found["node", node_kind(board, joint)] = None
    order = ("covering", "plug", "node", "hold", "zone")
    return sorted(found, key=lambda line: (order.index(line[0]), line[1]))


class Legend(NamedTuple):
    """What the marks of a board mean. rows: so many lines stand below each other."""

    lines: Sequence[Line]
    rows: int = 4

    @property
    def _columns(self) -> int:
        return -(-len(self.lines) // self.rows) or 1

    @property
    def wide_mm(self) -> float:
        """How wide it is."""
        return max(165.0, 3 + 84.0 * self._columns)

    @property
    def high_mm(self) -> float:
        """How high it is."""
        return (self.rows + 1) * LINE_MM + 4

    def shapes(self, x: float, y: float) -> Iterator[Shape]:
        """Draw it with its upper left corner at a place."""
        yield Rect(Box(x, y, self.wide_mm, self.high_mm), BOX, "sheet")
        yield Text("LEGEND", Box(x + 3, y + 1, 40, 7), 4, "faint", "left", bold=True)
        yield Text(FROM_WHAT, Box(x + 28, y + 1, 140, 7), 4, "faint", "left", whole=True)
        for number, (sort, key) in enumerate(self.lines):
            column, line = divmod(number, self.rows)
            left, middle = x + 6 + column * 84.0, y + 8 + (line + 0.5) * LINE_MM
            yield from _sample(sort, key, left, middle)
            words = COVERINGS.get(key, BARE).name if sort == "covering" else PASSES.get(key, key)
            yield Text(words, Box(left + 25, middle - 4, 58, 8), 4, "ink", "left", whole=True)


def _sample(sort: str, key: str, left: float, middle: float) -> Iterator[Shape]:
    """Draw what a line of the legend explains."""
    at = Point(left + 9, middle)
    match sort:
        case "covering":
            yield from covered((Point(left, middle), Point(left + 18, middle)), 6.0, key)
        case "hold":
            yield from hold(key, at, 0.0, 2.0)
        case "plug":
            yield from plug_shapes(SAMPLES[key], Point(left + 4, middle), 0.0, Pen("ink", 0.4), 0.8)
        case "node":
            yield from node_mark(key, at, 3.0)
        case _:
            for far in (3, 9, 15):
                yield from zone_mark(key, Point(left + far, middle))


TITLE_MM = 178.0
REVISED_MM = 150.0
MOST_REVISIONS = 6
"""So many of the last are told on the sheet; all of them stand in the job."""

COLUMNS_MM = (12.0, 26.0, 34.0)
"""How wide the columns of mark, date and name are; what changed has the rest."""


def title_block(
    board: Board, heading: Heading, x: float, y: float, sheet: str = "sheet 1 of 1"
) -> Iterator[Shape]:
    """Draw the title block with its upper left corner at a place."""
    high = BLOCK_MM
    yield Rect(Box(x, y, TITLE_MM, high), BOX, "sheet")
    cells = (
        (heading.job, f"{board.loom}  {board.name}", 6),
        (heading.version, f"scale 1:1 · {sheet}", 4),
        (
            " · ".join(filter(None, (heading.on, heading.by))),
            tolerances_text(heading.tolerances) + " mm",
            4,
        ),
        ("checked", heading.revision, 4),
    )
    for number, (left, right, size) in enumerate(cells):
        top = y + number * (high / 4)
        bold = number == 0
        for words, at in ((left, x + 3), (right, x + TITLE_MM / 2 + 3)):
            box = Box(at, top + 1, TITLE_MM / 2 - 6, high / 4 - 2)
            yield Text(words, box, size, "ink" if number < 3 else "faint", "left", bold=bold)
        if number:
            yield Path((Point(x, top), Point(x + TITLE_MM, top)), Pen("faint", 0.25))
    middle = x + TITLE_MM / 2
    yield Path((Point(middle, y), Point(middle, y + high)), Pen("faint", 0.25))


def revised(heading: Heading, x: float, y: float) -> Iterator[Shape]:
    """Draw the last revisions with the upper left corner at a place, the newest first."""
    last = heading.revisions[: -MOST_REVISIONS - 1 : -1]
    yield Rect(Box(x, y, REVISED_MM, BLOCK_MM), BOX, "sheet")
    yield Text("REVISIONS", Box(x + 3, y + 1, 60, 7), 4, "faint", "left", bold=True)
    high = (BLOCK_MM - 9) / MOST_REVISIONS
    for number, one in enumerate(last):
        left, top = x + 3, y + 8 + number * high
        yield Path((Point(x, top), Point(x + REVISED_MM, top)), Pen("faint", 0.25))
        for words, wide in zip((one.mark, one.on, one.by), COLUMNS_MM, strict=True):
            box = Box(left, top, wide - 2, high)
            yield Text(words, box, 4, "ink", "left", bold=words == one.mark)
            left += wide
        yield Text(one.what, Box(left, top, x + REVISED_MM - left - 2, high), 4, "ink", "left")
