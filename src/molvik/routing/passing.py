"""What a loom passes on its way, and what is to be done about it."""

from molvik.model.routing import Zone

PASSES: dict[str, str] = {
    "hot": "hot: keep off, or shield",
    "wet": "wet: seals, drip loop",
    "moves": "moves: no splice, slack, not stiff",
}
"""What a stretch may pass, with what is to be done about it."""


def passes(zone: Zone) -> tuple[str, ...]:
    """Return what a zone does to a loom, of PASSES."""
    found = {"hot": zone.hot_c is not None, "wet": zone.wet, "moves": zone.moves}
    return tuple(key for key, holds in found.items() if holds)
