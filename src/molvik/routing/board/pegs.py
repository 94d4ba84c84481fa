"""Where pins and forks go that hold a loom on its board, to drill it by."""

from typing import NamedTuple

from molvik.routing.board.lay import Board


class Peg(NamedTuple):
    """Something to be drilled for. kind: a fork holds a node or bend from both sides, a plug sits
    in a holder; x_mm, y_mm: from the lower left corner of the board; what: in words.
    """

    kind: str
    x_mm: float
    y_mm: float
    what: str


def pegs(board: Board) -> tuple[Peg, ...]:
    """Return where pins and forks go: at nodes, at ends and at bends, from the left on."""
    found: list[Peg] = []

    def at(x: float, y: float, kind: str, what: str) -> None:
        found.append(Peg(kind, round(x, 1), round(board.height_mm - y, 1), what))

    for joint in board.joints:
        place = board.places[joint.code]
        kind = (
            "holder" if joint.code in board.plugs else "pin" if board.is_end(joint.code) else "fork"
        )
        at(place.x, place.y, kind, f"{joint.code} {joint.name}".strip())
    for laid in board.runs:
        for corner in laid.path[1:-1]:
            at(corner.x, corner.y, "fork", f"bend of {laid.run.code}")
    return tuple(sorted(found, key=lambda peg: (peg.x_mm, peg.y_mm)))
