"""A page of a diagram of current tracks as a scene.

Tracks have one distance, so that what is written beside one ends before the next begins; lines run
only between the rows, each at a height of its own where it shares its way with others, so that
nothing is written or drawn over anything. Where a line goes on in a track of another page, the next
one is named, both ways.
"""

from collections import defaultdict
from collections.abc import Iterator, Mapping

from molvik.circuits.diagram.living import Alive
from molvik.circuits.diagram.pieces import Hang, Item
from molvik.circuits.diagram.placing import Placed, Placing
from molvik.circuits.diagram.symbols import HALF, NET, symbol
from molvik.drawing.lettering import width_of
from molvik.drawing.scene import Area, Box, Oval, Path, Pen, Point, Rect, Scene, Shape, Text, around
from molvik.reference.colours import PAINT
from molvik.wording import counted

PITCH = 112.0
"""From track to track."""

LEFT, RIGHT, HEAD, FOOT = 64.0, 30.0, 46.0, 46.0
LANE, AROUND = 16.0, 12.0
"""From a line to the next in one channel, and what is free above and below them."""

SMALL, NAME = 9.0, 10.0
"""How high letters are: of wires, of names."""

LINE_HIGH, MATED_HIGH = 12.0, 24.0
GAP = 6.0
WIDE = PITCH - GAP - 8.0
"""How wide a text beside a track may be."""

BESIDE, BESIDE_WIDE = 19.0, PITCH - 19.0 - 20.0
"""Where what is written beside a symbol begins, and how wide it may be: up to the next symbol."""

DEAD = Pen("line", 1.8)


def page_scene(
    stands: Placing,
    tracks: Mapping[str, tuple[int, ...]],
    span: tuple[int, int],
    number: int,
    shown: Alive | None,
) -> Scene:
    """Return a page of a diagram. tracks: of each part, by its code; span: its first and last
    track, from zero; shown: a state, None for none.
    """
    return _PageDrawing(stands, tracks, span, number, shown).scene


class _PageDrawing:
    def __init__(
        self,
        stands: Placing,
        tracks: Mapping[str, tuple[int, ...]],
        span: tuple[int, int],
        number: int,
        shown: Alive | None,
    ) -> None:
        first, last = span
        self.stands, self.tracks, self.first, self.last = stands, tracks, first, last
        self.shown = shown
        self.placed = [one for one in stands.placed if first <= one.track <= last]
        self.everywhere: dict[int, list[int]] = defaultdict(list)
        for one in stands.placed:
            for end in one.piece.ends:
                self.everywhere[end.line].append(one.track)
        self.here = {
            line: [track for track in found if first <= track <= last]
            for line, found in self.everywhere.items()
        }
        self.lanes = self._lanes()
        self.foot = stands.rows
        self._measure()
        width = LEFT + PITCH * (last - first + 1) + RIGHT
        shapes = [*self._rail(width), *self._lines(), *self._boxes()]
        areas: list[Area] = []
        for one in self.placed:
            made, found = self._piece(one)
            shapes += made
            areas += found
        shapes += self._numbers(number, width)
        self.scene = Scene(width, self.rail_y + FOOT, tuple(shapes), tuple(areas))

    # heights

    def _lanes(self) -> dict[int, int]:
        """Return at which of the heights of its channel each line runs: the first that is free
        where it runs (left-edge, after Hashimoto and Stevens, 1971).
        """
        by_channel: dict[int, list[int]] = defaultdict(list)
        for line, found in self.here.items():
            if found and not self.stands.lines[line].earth:
                by_channel[self.stands.channel[line]].append(line)
        lanes: dict[int, int] = {}
        for lines in by_channel.values():
            ends: list[float] = []
            for line in sorted(lines, key=lambda one: (self._reach(one), one)):
                left, right = self._reach(line)
                lane = next((n for n, end in enumerate(ends) if end < left), len(ends))
                if lane == len(ends):
                    ends.append(right)
                ends[lane] = right
                lanes[line] = lane
        return lanes

    def _reach(self, line: int) -> tuple[float, float]:
        """Return from where to where a line and what is written at its ends reach, in tracks."""
        left, right = min(self.here[line]), max(self.here[line])
        more_left = 0.9 if self._goes_on(line, -1) is not None else 0.0
        named = self.stands.lines[line].hub is not None or self._goes_on(line, 1) is not None
        return left - more_left, right + (0.9 if named else 0.0)

    def _goes_on(self, line: int, way: int) -> int | None:
        """Return the next track of a line on an earlier or later page."""
        if way < 0:
            return max((one for one in self.everywhere[line] if one < self.first), default=None)
        return min((one for one in self.everywhere[line] if one > self.last), default=None)

    def _measure(self) -> None:
        count: dict[int, int] = defaultdict(int)
        for line, lane in self.lanes.items():
            channel = self.stands.channel[line]
            count[channel] = max(count[channel], lane + 1)
        top: dict[int, float] = defaultdict(float)
        below: dict[int, float] = defaultdict(float)
        for one in self.placed:
            top[one.row] = max(top[one.row], _high(one.top))
            below[one.row] = max(below[one.row], _high(one.bottom))
        used = {one.row for one in self.placed}
        y = HEAD
        self.channel_y: dict[int, float] = {}
        self.row_y: dict[int, float] = {}
        for number in range(self.foot):
            self.channel_y[number] = y + AROUND
            y += 2 * AROUND + LANE * max(0, count[number] - 1) if count[number] else 0.0
            if number in used:
                self.row_y[number] = y + top[number] + HALF
                y += top[number] + 2 * HALF + below[number] + 8
        self.rail_y = y + 22

    def _x(self, track: int) -> float:
        return LEFT + PITCH * (track - self.first + 0.5) - 30

    def _line_y(self, line: int) -> float:
        if self.stands.lines[line].earth:
            return self.rail_y
        return self.channel_y[self.stands.channel[line]] + LANE * self.lanes[line]

    # what is drawn

    def _rail(self, width: float) -> Iterator[Shape]:
        yield Path((Point(20, self.rail_y), Point(width - 10, self.rail_y)), Pen("ink", 2.6))
        yield Text("31", Box(20, self.rail_y - 18, 24, 14), NAME, "ink", "left", bold=True)

    def _numbers(self, number: int, width: float) -> Iterator[Shape]:
        for track in range(self.first, self.last + 1):
            box = Box(self._x(track) - 20, self.rail_y + 8, 40, 14)
            yield Text(str(track + 1), box, NAME, "faint", bold=True, whole=True)
        state = f" · {self.shown.name}: what is alive is drawn strong" if self.shown else ""
        system = self.placed[0].system
        named = f"{system[:1].upper()}{system[1:]} · " if system else ""
        words = f"{named}Page {number} · tracks {self.first + 1} to {self.last + 1}{state}"
        yield Text(words, Box(20, 8, width - 40, 18), 13, "ink", "left", bold=True)

    def _lines(self) -> Iterator[Shape]:
        for line in sorted(self.lanes):
            xs = [self._x(track) for track in self.here[line]]
            y, left, right = self._line_y(line), min(xs), max(xs)
            before, after = self._goes_on(line, -1), self._goes_on(line, 1)
            name, hub = self.stands.lines[line].name, self.stands.lines[line].hub
            if before is not None:
                left -= 18
                yield _arrow(left, y, -1)
                box = Box(left - 80, y - 6, 72, 12)
                yield Text(f"{name} · {before + 1}", box, SMALL, "copper", "right")
            if after is not None:
                right += 18
                yield _arrow(right, y, 1)
            if right > left:
                yield Path((Point(left, y), Point(right, y)), self._pen(line))
            if after is not None:
                box = Box(right + 8, y - 6, PITCH - 34, 12)
                yield Text(f"{name} · {after + 1}", box, SMALL, "copper", "left")
            elif hub is not None and before is None:
                yield Text(name, Box(right + 8, y - 6, WIDE, 12), SMALL, "ink", "left", bold=True)
            if self._is_splice(line):
                yield Oval(around(Point(max(xs), y), 5, 5), None, "ink")

    def _pen(self, line: int, paint: str | None = None) -> Pen:
        """Return how a line, or a wire to it of a paint, is drawn: faint where it is not alive."""
        if self.shown is not None and not self.stands.lines[line].earth:
            if line not in self.shown.lines:
                return DEAD
            return Pen(paint, 3.2) if paint else Pen("ink", 2.6)
        return Pen(paint, 2.4) if paint else NET

    def _is_splice(self, line: int) -> bool:
        hub = self.stands.lines[line].hub
        return hub is not None and not hub.cavity and not self.stands.lines[line].earth

    def _boxes(self) -> Iterator[Shape]:
        """Yield a box for each run of pins of one part in one row."""
        run: list[Placed] = []
        for one in [*self.placed, None]:
            pin = one is not None and one.piece.form == "pin"
            if run and not (
                pin
                and one is not None
                and one.piece.code == run[-1].piece.code
                and one.row == run[-1].row
                and one.track == run[-1].track + 1
            ):
                yield from self._box(run)
                run = []
            if pin and one is not None:
                run.append(one)

    def _box(self, run: list[Placed]) -> Iterator[Shape]:
        y = self.row_y[run[0].row]
        left, right = self._x(run[0].track) - 22, self._x(run[-1].track) + WIDE - 8
        box = Box(left, y - HALF, right - left, 2 * HALF)
        yield Rect(box, Pen("ink", 1.6), "side", 3)
        lines = [run[0].piece.code, *_wrapped(run[0].piece.under, 2, box.width - 8)]
        for number, words in enumerate(lines):
            at = Box(left + 4, y - 6 * len(lines) + 12 * number, box.width - 8, 12)
            yield Text(words, at, SMALL, "ink", "left", bold=not number)

    def _piece(self, one: Placed) -> tuple[list[Shape], list[Area]]:
        x, y = self._x(one.track), self.row_y[one.row]
        closed = self.shown is not None and one.piece.key in self.shown.closed
        shapes = list(symbol(one.piece.form, x, y, closed=closed))
        areas = []
        if one.piece.form not in ("wire", "loose"):
            half = 22 if one.piece.form == "pin" else 24
            areas = [Area(around(Point(x, y), half, HALF), one.piece.code, self._says(one))]
        for end, way in ((one.top, -1), (one.bottom, 1)):
            if end is not None:
                made, found = self._end(one, end, way)
                shapes += made
                areas += found
        if one.piece.form not in ("pin", "wire"):
            shapes += self._written(one, x, y)
        return shapes, areas

    def _end(self, one: Placed, end: Hang, way: int) -> tuple[list[Shape], list[Area]]:
        """Draw the way from an end of a piece to its line, with what is along it."""
        x, y = self._x(one.track), self.row_y[one.row] + way * HALF
        far = self._line_y(end.line)
        paint = next((PAINT.get(i.colour) for i in end.items if i.colour in PAINT), None)
        pen = self._pen(end.line, paint)
        shapes: list[Shape] = []
        if paint == PAINT["WH"] and pen.role == paint:
            shapes.append(Path((Point(x, y), Point(x, far)), Pen("faint", 3.6)))
        shapes.append(Path((Point(x, y), Point(x, far)), pen))
        line = self.stands.lines[end.line]
        if len(self.everywhere[end.line]) > 2 and not line.earth:
            shapes.append(Oval(around(Point(x, far), 2.6, 2.6), None, "ink"))
        areas = []
        if end.place.at:
            areas = [Area(around(Point(x, y), 4, 4), str(end.place), f"{end.place}")]
        if line.earth:
            shapes.append(
                Text(line.name, Box(x + GAP, far - 15, WIDE, 12), SMALL, "ink", "left", bold=True)
            )
        at = y
        label = end.label if one.piece.form != "pin" or way else ""
        if label:
            at = self._write(shapes, label, x, at, way, "faint")
        for item in end.items:
            begin = at
            if item.sort == "mated":
                at += way * MATED_HIGH
                middle = (begin + at) / 2
                shapes.append(Rect(Box(x - 5, middle - 5, 10, 10), Pen("ink", 1.4), "sheet", 2))
                box = Box(x + GAP + 3, middle - 6, WIDE - 3, 12)
                shapes.append(Text(item.words, box, SMALL, "faint", "left"))
            else:
                at = self._write(shapes, item.words, x, at, way, "ink")
            areas.append(self._item_area(item, x, begin, at))
        return shapes, areas

    def _item_area(self, item: Item, x: float, begin: float, end: float) -> Area:
        box = Box(x - 4, min(begin, end), WIDE, abs(end - begin))
        return Area(box, item.ref, item.words)

    def _write(
        self, shapes: list[Shape], words: str, x: float, at: float, way: int, role: str
    ) -> float:
        after = at + way * LINE_HIGH
        box = Box(x + GAP, min(at, after), WIDE, LINE_HIGH)
        shapes.append(Text(words, box, SMALL, role, "left"))
        return after

    def _written(self, one: Placed, x: float, y: float) -> Iterator[Shape]:
        """Write beside a symbol what it is."""
        lines = [(one.piece.name, True)]
        room = 3 if one.piece.form not in ("coil", "contact") else 2
        lines += [(words, False) for words in _wrapped(one.piece.under, room)]
        if one.piece.form in ("coil", "contact"):
            lines += [(self._across(one), False)]
        lines = [line for line in lines if line[0]][:4]
        begin = y - len(lines) * LINE_HIGH / 2
        for number, (words, bold) in enumerate(lines):
            box = Box(x + BESIDE, begin + number * LINE_HIGH, BESIDE_WIDE, LINE_HIGH)
            role = "copper" if words.startswith(("coil ", "contact ")) else "ink"
            yield Text(words, box, SMALL, role, "left", bold=bold)

    def _across(self, one: Placed) -> str:
        """Name the tracks of a relay's other parts."""
        others = [
            other.track + 1
            for other in self.stands.placed
            if other.piece.code == one.piece.code
            and (other.piece.form == "contact") == (one.piece.form == "coil")
            and other.piece.form in ("coil", "contact")
        ]
        if not others:
            return ""
        word = "contact" if one.piece.form == "coil" else "coil"
        return f"{word} {', '.join(map(str, others))}"

    def _says(self, one: Placed) -> str:
        count = len(self.tracks.get(one.piece.code, ()))
        more = f", in {counted(count, 'track')}" if count > 1 else ""
        return f"{one.piece.code} {one.piece.under or one.piece.name}{more}"


def _high(end: Hang | None) -> float:
    """Return how high what is written along an end is."""
    if end is None:
        return 0.0
    items = sum(MATED_HIGH if one.sort == "mated" else LINE_HIGH for one in end.items)
    return items + (LINE_HIGH if end.label else 0.0) + 4


def _arrow(x: float, y: float, way: int) -> Path:
    points = Point(x, y), Point(x - 7 * way, y - 4), Point(x - 7 * way, y + 4)
    return Path(points, None, True, "copper")


def _wrapped(words: str, most: int, wide: float = BESIDE_WIDE) -> list[str]:
    """Return words in lines that are no wider."""
    lines: list[str] = []
    for word in words.split():
        if lines and width_of(f"{lines[-1]} {word}", SMALL, "B612-Regular") <= wide:
            lines[-1] = f"{lines[-1]} {word}"
        else:
            lines.append(word)
    if len(lines) > most:
        lines[most - 1] = " ".join(lines[most - 1 :])
    return lines[:most]
