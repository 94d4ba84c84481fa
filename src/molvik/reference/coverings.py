"""What lies over a bundle: one table for what is found, what is sized and what is bought.

All common practice, with no source; thicknesses are typical, from memory.
"""

from typing import Literal, NamedTuple

from molvik.model.stock import StockKind


class Covering(NamedTuple):
    """A kind of covering. key: as kept; words: other names people type, each in lower case.

    limit_c: the hottest lasting air it bears, deg C, None for bare wire; of kinds that differ the
    least. thick_mm: how thick it lies, the air under it counted in; heat passes it as it passes
    insulation. stock: what it is bought as. tight: over a bundle that grew it may not go back on.
    """

    key: str
    name: str
    thick_mm: float
    words: tuple[str, ...] = ()
    stock: StockKind | Literal[""] = "sleeve"
    tight: bool = False
    limit_c: float | None = None


_COVERINGS = (
    Covering("", "bare", 0.0, ("bare", "none"), ""),
    Covering("tape", "tape", 0.4, ("cloth tape", "loom tape", "taped"), "tape", limit_c=105),
    Covering("braid", "braid", 0.6, ("braided sleeve", "braided"), limit_c=125),
    Covering("heat-shrink", "heat-shrink", 0.8, ("heat shrink", "shrink"), limit_c=125),
    Covering(
        "split tube",
        "split tube",
        1.5,
        ("convoluted", "conduit", "split conduit", "split"),
        tight=True,
        limit_c=105,
    ),
    Covering("tube", "tube", 1.0, ("sleeve", "pvc sleeve", "sleeving"), tight=True, limit_c=80),
    Covering(
        "heat sleeve",
        "heat sleeve",
        2.0,
        ("glass sleeve", "foil sleeve", "heat shield"),
        limit_c=250,
    ),
)

COVERINGS: dict[str, Covering] = {covering.key: covering for covering in _COVERINGS}


def find_covering(text: str) -> Covering | None:
    """Return the covering that a text names: by its key, or by the words people use for it."""
    tidy = " ".join(text.lower().split())
    if tidy in COVERINGS:
        return COVERINGS[tidy]
    for covering in COVERINGS.values():
        if tidy in covering.words:
            return covering
    # "black convoluted tube, 13 mm": the longest name in it tells.
    named = [
        (len(word), covering)
        for covering in _COVERINGS[1:]
        for word in (covering.key, *covering.words)
        if word in tidy
    ]
    return max(named, key=lambda pair: pair[0])[1] if named else None
