"""What lies over a bundle: one table for what is found, what is sized and what is bought.

All common practice, with no source; thicknesses are typical, from memory.
"""

from typing import Literal, NamedTuple

from molvik.model.stock import StockItem, StockKind


class Covering(NamedTuple):
    """A kind of covering. key: as kept; words: other names people type, each in lower case.

    limit_c: the hottest lasting air it bears, deg C, None for bare wire; of kinds that differ the
    least. thick_mm: how thick it lies, the air under it counted in; heat passes it as it passes
    insulation. stock: what it is bought as. tight: over a bundle that grew it may not go back on.
    closed: it has to be on before a plug or terminal closes the end. stiff: a loom in it hardly
    bends. per_m: how much of it a metre of loom takes, m; of tape by how thick the loom is.
    """

    key: str
    name: str
    thick_mm: float
    words: tuple[str, ...] = ()
    stock: StockKind | Literal[""] = "sleeve"
    tight: bool = False
    limit_c: float | None = None
    closed: bool = False
    stiff: bool = False
    per_m: float = 1.0


_COVERINGS = (
    Covering("", "bare", 0.0, ("bare", "none"), ""),
    Covering(
        "tape", "tape", 0.4, ("cloth tape", "loom tape", "taped"), "tape", limit_c=105, stiff=True
    ),
    Covering(
        "spot tape", "spot tape", 0.2, ("spot taped", "tape here and there"), "tape", limit_c=105
    ),
    Covering("spiral", "spiral", 1.2, ("spiral wrap", "spiral band"), limit_c=85, per_m=1.6),
    Covering(
        "braid", "braid", 0.6, ("braided sleeve", "braided"), limit_c=125, closed=True, per_m=1.15
    ),
    Covering(
        "heat-shrink",
        "heat-shrink",
        0.8,
        ("heat shrink", "shrink"),
        limit_c=125,
        closed=True,
        stiff=True,
        per_m=1.1,
    ),
    Covering(
        "split tube",
        "split tube",
        1.5,
        ("convoluted", "conduit", "split tube", "split"),
        tight=True,
        limit_c=105,
    ),
    Covering(
        "tube",
        "tube",
        1.0,
        ("sleeve", "pvc sleeve", "sleeving"),
        tight=True,
        limit_c=80,
        closed=True,
    ),
    Covering(
        "heat sleeve",
        "heat sleeve",
        2.0,
        ("glass sleeve", "foil sleeve", "heat shield"),
        limit_c=250,
        closed=True,
    ),
)

COVERINGS: dict[str, Covering] = {covering.key: covering for covering in _COVERINGS}
BARE = COVERINGS[""]


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


OTHER_TAPES = ("double", "masking", "packing", "parcel", "foil", "alumin", "reflect", "ptfe")
"""Words in the names of tapes that no loom is wrapped with (common practice)."""


def covering_of(item: StockItem) -> str:
    """Return which covering a thing in stock is: as it is typed, else by its name; empty for none.

    What is bought as tape, and not by its name another thing, is loom tape.
    """
    if item.covering:
        return item.covering
    found = find_covering(item.name) if item.name else None
    if item.kind == "tape":
        if any(word in item.name.lower() for word in OTHER_TAPES):
            return ""
        return found.key if found is not None and found.stock == "tape" else "tape"
    return found.key if found is not None and item.kind == "sleeve" else ""


def may_serve(item: StockItem, key: str) -> bool:
    """Return whether a thing in stock may be laid over as a covering: it is that one, or another
    tape where it is tape, which winds closely or in spots, and bears as much heat.
    """
    own = covering_of(item)
    if own == key:
        return True
    have, wanted = COVERINGS.get(own, BARE), COVERINGS.get(key, BARE)
    if have.stock != "tape" or wanted.stock != "tape":
        return False
    return (have.limit_c or 0.0) >= (wanted.limit_c or 0.0)
