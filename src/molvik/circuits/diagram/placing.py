"""Where the pieces of a diagram stand: each in a track and a row of its own, lines between rows.

Lines are put in an order from the supply to earth, by how many pieces lie before them; each piece
hangs from the line that comes first to the one that comes later, so that going down is going on
(layers by the longest path, as in layered drawings after Sugiyama, Tagawa and Toda, 1981). Tracks
are found by following each feed to its end, then neighbours are exchanged while that makes lines
shorter. The same job has always the same order.
"""

from collections import defaultdict, deque
from collections.abc import Iterable, Iterator, Mapping
from types import MappingProxyType
from typing import NamedTuple

from molvik.circuits.diagram.pieces import Hang, Line, Piece, Pieces
from molvik.circuits.diagram.systems import SYSTEMS
from molvik.model.job import code_order
from molvik.model.parts import End
from molvik.stopping import look_up

PASSES = 12
"""So often neighbours are gone through at most."""

UPPER = ("fuse", "contact", "wire", "battery", "plug", "loose")
"""Forms that hang close below their upper line; the others stand close above their lower one."""


class Placed(NamedTuple):
    """A piece in its place. track, row: from zero; top, bottom: its ends up and down, None for
    none; system: to which it belongs, where pieces are drawn by that.
    """

    piece: Piece
    track: int
    row: int
    top: Hang | None
    bottom: Hang | None
    system: str = ""


class Placing(NamedTuple):
    """All pieces in their places. channel: of each line, by its number; rows: between the channels;
    lines: as they were.
    """

    placed: tuple[Placed, ...]
    channel: dict[int, int]
    rows: int
    lines: tuple[Line, ...]


def placing(
    made: Pieces, live: End | None, systems: Mapping[str, str] = MappingProxyType({})
) -> Placing:
    """Return where everything stands. live: the battery's pole that is not at metal. systems: of
    each piece, by its key, where each system has tracks of its own, in their order.
    """
    pieces = tuple(_split(made.pieces, made.lines))
    of = {piece.key: systems.get(piece.unit or piece.key, "") for piece in pieces}
    of |= {key: system for key, system in systems.items() if key in of}
    order = _order(pieces, made.lines, live)
    channel = _channels(pieces, made.lines, order)
    rows = 1 + max((channel[one.number] for one in made.lines if not one.earth), default=0)
    tracks = _tracks(pieces, made.lines, order, of)
    placed = [
        _placed(piece, tracks[piece.key], made.lines, channel, rows)._replace(system=of[piece.key])
        for piece in pieces
    ]
    placed.sort(key=lambda one: one.track)
    return Placing(tuple(placed), channel, rows, made.lines)


def _split(pieces: Iterable[Piece], lines: tuple[Line, ...]) -> Iterator[Piece]:
    """Yield pieces; one that begins and ends on one line, or on earth twice, as its two ends."""
    for piece in pieces:
        on = [end.line for end in piece.ends]
        if len(on) == 2 and (on[0] == on[1] or all(lines[one].earth for one in on)):
            for number, end in enumerate(piece.ends, 1):
                key = f"{piece.key} {number}"
                yield piece._replace(key=key, form="pin", ends=(end,), unit=piece.key)
        else:
            yield piece


def _order(
    pieces: tuple[Piece, ...], lines: tuple[Line, ...], live: End | None
) -> dict[int, tuple[int, int, int]]:
    """Return a key for each line by which it comes after those that feed it."""
    beside: dict[int, list[int]] = defaultdict(list)
    for piece in pieces:
        if len(piece.ends) == 2:
            a, b = (end.line for end in piece.ends)
            beside[a].append(b)
            beside[b].append(a)
    first = next((e.line for p in pieces for e in p.ends if e.place == live), None)
    depth: dict[int, int] = {}
    begins = ([first] if first is not None and not lines[first].earth else []) + [
        line.number for line in lines if not line.earth
    ]
    for number, begin in enumerate(begins):
        if begin in depth:
            continue
        depth[begin] = 0 if number == 0 else 1
        queue = deque([begin])
        while queue:
            now = queue.popleft()
            for far in beside[now]:
                if far not in depth and not lines[far].earth:
                    depth[far] = depth[now] + 1
                    queue.append(far)
    return {
        line.number: (int(line.earth), depth.get(line.number, 0), line.number) for line in lines
    }


def _channels(
    pieces: tuple[Piece, ...], lines: tuple[Line, ...], order: dict[int, tuple[int, int, int]]
) -> dict[int, int]:
    """Return between which rows each line runs: below all that feeds it; earth at the foot."""
    above: dict[int, list[int]] = defaultdict(list)
    for piece in pieces:
        if len(piece.ends) == 2:
            upper, lower = sorted((end.line for end in piece.ends), key=lambda one: order[one])
            above[lower].append(upper)
    channel: dict[int, int] = {}
    for number in sorted(order, key=lambda one: order[one]):
        if not lines[number].earth:
            least = min(1, order[number][1])
            channel[number] = max((channel[one] + 1 for one in above[number]), default=least)
    foot = max(channel.values(), default=0) + 1
    return channel | {line.number: foot for line in lines if line.earth}


def _placed(
    piece: Piece, track: int, lines: tuple[Line, ...], channel: dict[int, int], rows: int
) -> Placed:
    if len(piece.ends) == 1:
        (end,) = piece.ends
        if lines[end.line].earth:
            return Placed(piece, track, rows - 1, None, end)
        row = channel[end.line] if piece.form in UPPER else rows - 1
        return Placed(piece, track, row, end, None)
    top, bottom = sorted(piece.ends, key=lambda end: channel[end.line])
    row = channel[top.line] if piece.form in UPPER else channel[bottom.line] - 1
    return Placed(piece, track, row, top, bottom)


def _tracks(
    pieces: tuple[Piece, ...],
    lines: tuple[Line, ...],
    order: dict[int, tuple[int, int, int]],
    of: Mapping[str, str],
) -> dict[str, int]:
    """Return the track of each piece, by its key."""
    on: dict[int, list[Piece]] = defaultdict(list)
    for piece in pieces:
        for end in piece.ends:
            on[end.line].append(piece)
    units: dict[str, list[Piece]] = defaultdict(list)
    for piece in pieces:
        units[piece.unit or piece.key].append(piece)
    groups: list[list[Piece]] = []
    seen: set[str] = set()
    waits = [n for n in sorted(order, key=lambda one: order[one]) if not lines[n].earth][::-1]
    gone: set[int] = set()

    def take(piece: Piece) -> Iterator[int]:
        group = units[piece.unit or piece.key]
        if group[0].key not in seen:
            seen.update(one.key for one in group)
            groups.append(group)
            yield from (end.line for one in group for end in one.ends)

    while waits:
        line = waits.pop()
        if line in gone or lines[line].earth:
            continue
        gone.add(line)
        for piece in sorted(on[line], key=_rank):
            waits += [one for one in take(piece) if one not in gone][::-1]
            # What it leads to comes next to it.
            while waits and waits[-1] not in gone and _is_short(on[waits[-1]]):
                inner = waits.pop()
                gone.add(inner)
                for other in sorted(on[inner], key=_rank):
                    waits += [one for one in take(other) if one not in gone][::-1]
    for piece in sorted(pieces, key=_rank):
        list(take(piece))
    named = list(SYSTEMS)
    groups.sort(key=lambda group: named.index(of[group[0].key]) if of[group[0].key] else 0)
    groups = _exchanged(groups, lines, of)
    tracks = (piece.key for group in groups for piece in group)
    return {key: number for number, key in enumerate(tracks)}


def _is_short(pieces: list[Piece]) -> bool:
    return len(pieces) <= 3


def _rank(piece: Piece) -> tuple[object, ...]:
    return (piece.form == "pin", *code_order(piece.code), piece.key)


def _exchanged(
    groups: list[list[Piece]], lines: tuple[Line, ...], of: Mapping[str, str]
) -> list[list[Piece]]:
    """Exchange neighbours of one system while that makes lines shorter."""
    for _ in range(PASSES):
        look_up()
        where = _where(groups)
        better = False
        for n in range(len(groups) - 1):
            a, b = groups[n], groups[n + 1]
            if of[a[0].key] != of[b[0].key]:
                continue
            touched = {e.line for p in (*a, *b) for e in p.ends if not lines[e.line].earth}
            before = sum(_span(where[line].values()) for line in touched)
            _shift(where, a, len(b))
            _shift(where, b, -len(a))
            if sum(_span(where[line].values()) for line in touched) < before:
                groups[n], groups[n + 1] = b, a
                better = True
            else:
                _shift(where, a, -len(b))
                _shift(where, b, len(a))
        if not better:
            break
    return groups


Where = dict[int, dict[tuple[str, int], int]]
"""For each line the track of every end on it."""


def _where(groups: list[list[Piece]]) -> Where:
    found: Where = defaultdict(dict)
    for track, piece in enumerate(piece for group in groups for piece in group):
        for number, end in enumerate(piece.ends):
            found[end.line][piece.key, number] = track
    return found


def _shift(where: Where, group: list[Piece], by: int) -> None:
    for piece in group:
        for number, end in enumerate(piece.ends):
            where[end.line][piece.key, number] += by


def _span(tracks: Iterable[int]) -> int:
    tracks = list(tracks)
    return max(tracks) - min(tracks)
