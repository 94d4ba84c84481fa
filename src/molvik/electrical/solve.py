"""The electrical solution of a network of resistances, sources and diodes.

Modified nodal analysis: for every node, what flows in flows out. The resistances and sources are
factored once; diodes are then found by Newton's method among themselves, with their voltage steps
limited, as circuit simulators do. Nodes that nothing joins to the reference have no voltage anybody
could measure: they are named as floating, and do not upset the rest.
"""

from collections.abc import Iterable, Iterator, Mapping, Sequence
from typing import TYPE_CHECKING, Any, NamedTuple

from molvik.electrical.elements import (
    Current,
    Diode,
    Element,
    Node,
    Resistor,
    SolveError,
    Source,
    can_be,
    diode_line,
)
from molvik.electrical.junctions import BESIDE_S, Junctions

if TYPE_CHECKING:
    import numpy
    from numpy.typing import NDArray

    Array = NDArray[numpy.float64]
    Places = NDArray[numpy.int32]
    Indices = NDArray[numpy.signedinteger]

LEAST_OHM = 1e-7
"""A joint is never less than this; zero would be no equation."""

MOST_OHM = 1e12
"""Nothing a meter could see flows through more; beyond it numbers no longer add up."""

MOST_VOLTS = MOST_AMPS = 1e6


class Solution(NamedTuple):
    """volts: of each node against the reference, none for a floating one. amps: through each
    element from its first node to its second; of a source, out of its plus. refused: elements that
    cannot be and were left out, with the reason.
    """

    volts: Mapping[Node, float]
    amps: Mapping[str, float]
    floating: frozenset[Node]
    refused: Mapping[str, str] = {}


def round_significant(value: float) -> float:
    """Return a voltage or a current to the four figures that a solution with warm copper is good
    for; so an edit far away, which moves the seventh, leaves what is asked of a wire the same.
    """
    return float(f"{value:.4g}")


class Prepared:
    """Elements with their nodes numbered, once for all the networks they are part of."""

    def __init__(
        self, elements: Iterable[Element], reference: Node, before: "Prepared | None" = None
    ) -> None:
        import numpy

        # Looms have thousands of elements, and are solved while a key is turned: what goes over
        # all of them is kept short. Every kind has its two nodes in the same places.
        self.elements = tuple(elements)
        ends = [node for diode in self.elements for node in (diode[1], diode[2])]
        self.index: dict[Node, int] = dict(before.index) if before else {reference: 0}
        for node in dict.fromkeys(ends):
            self.index.setdefault(node, len(self.index))
        places = numpy.array([self.index[node] for node in ends], dtype=numpy.int32)
        self.a, self.b = places[0::2], places[1::2]
        start = len(before.elements) if before else 0
        self.names: dict[str, int] = dict(before.names) if before else {}
        self.names.update({diode[0]: start + index for index, diode in enumerate(self.elements)})
        self.others = [
            index for index, diode in enumerate(self.elements) if type(diode) is not Resistor
        ]
        self.refused: dict[str, str] = dict(before.refused) if before else {}
        self.conductance, self.pushed = _linear(self.elements, self.others, self.refused)
        if before is not None:
            self.elements = (*before.elements, *self.elements)
            self.a = numpy.concatenate((before.a, self.a))
            self.b = numpy.concatenate((before.b, self.b))
            self.others = [*before.others, *(start + other for other in self.others)]
            self.conductance = numpy.concatenate((before.conductance, self.conductance))
            self.pushed = numpy.concatenate((before.pushed, self.pushed))

    def conducting_diodes(self) -> "list[tuple[int, Diode]]":
        """The diodes that are not left out, each with its place among the elements."""
        every = ((other, self.elements[other]) for other in self.others if self.conductance[other])
        return [(index, diode) for index, diode in every if isinstance(diode, Diode)]


def solve(
    elements: Iterable[Element], reference: Node, prepared: Prepared | None = None
) -> Solution:
    """Return voltages and currents. An element that cannot be is left out and named.

    prepared: elements that belong to the network as well. Raises SolveError when no numbers come
    of what is left.
    """
    import numpy

    whole = Prepared(elements, reference, prepared)
    island, roots = _islands(whole)
    # A current that cannot come back does not flow: an alternator whose output ends nowhere.
    returns = (whole.conductance != 0.0) | (island[whole.a] == island[whole.b])
    pushed = numpy.where(returns, whole.pushed, 0.0)
    diodes = whole.conducting_diodes()
    found = _potentials(whole, pushed, roots, diodes)
    if not numpy.isfinite(found).all():
        raise SolveError("Voltages and currents come to no numbers.")
    floating = frozenset[Node]()
    if len(roots) > 1:
        away = (island != island[0]).tolist()
        nodes = zip(whole.index, away, strict=True)
        floating = frozenset(node for node, is_away in nodes if is_away)
    volts = _Values(whole.index, found, floating)
    amps = _Values(whole.names, _flows(whole, pushed, found, diodes))
    return Solution(volts, amps, floating, whole.refused)


def island_roots(whole: Prepared) -> "list[int]":
    """Return the first node of each island but that of the reference, by number."""
    island, roots = _islands(whole)
    return [int(root) for root in roots if island[root] != island[0]]


def _islands(whole: Prepared) -> "tuple[Indices, Indices]":
    """Return the island each node is on, by number, and the first node of each island."""
    island = _joined(whole, whole.conductance != 0.0)
    return island, _firsts(island)


def _firsts(island: "Indices") -> "Indices":
    import numpy

    roots: Indices = numpy.unique(island, return_index=True)[1]
    return roots


def _joined(whole: Prepared, conducts: "NDArray[numpy.bool_]") -> "Indices":
    """Return which nodes some elements join, by the number of the island each node is on."""
    import numpy
    from scipy.sparse import coo_matrix
    from scipy.sparse.csgraph import connected_components

    size = len(whole.index)
    ends = whole.a[conducts], whole.b[conducts]
    links = coo_matrix((numpy.ones(int(conducts.sum())), ends), shape=(size, size))
    _, island = connected_components(links, directed=False)
    found: Indices = island
    return found


def _potentials(
    whole: Prepared, pushed: "Array", roots: "Indices", diodes: "Sequence[tuple[int, Diode]]"
) -> "Array":
    """Return the voltage of each node, V.

    The first node of each island is held at zero; that of the reference is the reference.
    """
    import numpy
    from scipy.sparse import coo_matrix

    a, b, size = whole.a, whole.b, len(whole.index)
    free = numpy.ones(size, dtype=bool)
    free[roots] = False
    order = numpy.flatnonzero(free)
    unknowns = len(order)
    found = numpy.zeros(size)
    if not unknowns:
        return found
    position = numpy.full(size, -1, dtype=numpy.int32)
    position[order] = numpy.arange(unknowns)
    beside = _beside(whole, diodes)
    own = whole.conductance
    if diodes:
        own = own.copy()
        own[[place for place, _ in diodes]] = beside
    rows = position[numpy.concatenate((a, b, a, b))]
    columns = position[numpy.concatenate((a, b, b, a))]
    values = numpy.concatenate((own, own, -own, -own))
    kept = (rows >= 0) & (columns >= 0) & (values != 0.0)
    matrix = coo_matrix((values[kept], (rows[kept], columns[kept])), shape=(unknowns, unknowns))
    factored = factors(matrix)

    def answered(push: "Array") -> "Array":
        """Return what currents into the nodes do to all of them, V; columns are many such."""
        every = numpy.zeros_like(push)
        every[order] = factored.solve(push[order])
        return every

    right = numpy.zeros(size)
    right += numpy.bincount(a, pushed, size) - numpy.bincount(b, pushed, size)
    if not diodes:
        return answered(right)
    return Junctions(whole, diodes, beside).settled(right, answered)


def _beside(whole: Prepared, diodes: "Sequence[tuple[int, Diode]]") -> "Array":
    """Return the conductance that stands beside each diode in the matrix, S: only where nothing
    else holds one of its nodes.
    """
    import numpy

    places = [place for place, _ in diodes]
    alone = whole.conductance != 0.0
    alone[places] = False
    island = _joined(whole, alone) if places else numpy.zeros(0, int)
    holds = island[whole.a[places]] != island[whole.b[places]]
    return numpy.where(holds, BESIDE_S, 0.0)


def _flows(
    whole: Prepared, pushed: "Array", found: "Array", diodes: "Sequence[tuple[int, Diode]]"
) -> "Array":
    """Return the current through each element, A; of a source, out of its plus."""
    import numpy

    across = found[whole.a] - found[whole.b]
    flows = pushed - across * whole.conductance
    resistors = numpy.ones(len(whole.elements), dtype=bool)
    resistors[whole.others] = False
    flows[resistors] *= -1.0
    for index, diode in diodes:
        flows[index] = diode_line(diode, float(across[index]))[0]
    return flows


def factors(matrix: Any) -> Any:
    """Return a matrix factored; where rounding makes it singular, with a trace to the reference.

    The matrix is symmetric with a heavy diagonal: it needs no pivoting, and an order by least
    degree of its own pattern, which takes chains and trees away first, fills in a tenth of what the
    usual order for any matrix does. With 5,000 wires that run anywhere it is ten times as fast.
    Raises SolveError.
    """
    import numpy
    from scipy.sparse import identity
    from scipy.sparse.linalg import splu

    columns = matrix.tocsc()
    how: Any = {
        "permc_spec": "MMD_AT_PLUS_A",
        "diag_pivot_thresh": 0.0,
        "options": {"SymmetricMode": True},
    }
    try:
        return splu(columns, **how)
    except RuntimeError:  # what hangs on the rest by next to nothing, as in simulators
        trace = 1e-12 * float(numpy.max(numpy.abs(columns.diagonal()), initial=1.0))
        try:
            return splu(columns + trace * identity(columns.shape[0], format="csc"), **how)
        except RuntimeError as error:
            raise SolveError("Voltages and currents come to no numbers.") from error


class _Values(Mapping[str, float]):
    """Numbers by name, looked up in the arrays where they were found."""

    def __init__(
        self, places: dict[str, int], values: "Array", without: frozenset[str] = frozenset()
    ) -> None:
        self._places, self._values, self._without = places, values, without

    def __getitem__(self, name: str) -> float:
        if name in self._without:
            raise KeyError(name)
        return float(self._values[self._places[name]])

    def __iter__(self) -> Iterator[str]:
        return (name for name in self._places if name not in self._without)

    def __len__(self) -> int:
        return len(self._places) - len(self._without)


def _linear(
    elements: Sequence[Element], others: Sequence[int], refused: dict[str, str]
) -> "tuple[Array, Array]":
    """Return each element's conductance, S, and the current it pushes into its first node, A.

    What cannot be conducts nothing, and is named in ``refused`` with the reason.
    """
    import numpy

    ohms = [diode[3] for diode in elements]
    for other in others:
        diode = elements[other]
        ohms[other] = diode.ohm if isinstance(diode, Source) else 1.0
    checked = numpy.array(ohms)
    wrong = ~(numpy.isfinite(checked) & (checked >= 0))
    for other in numpy.flatnonzero(wrong).tolist():
        refused[elements[other].name] = f"a resistance of {ohms[other]:g} Ω: zero or more"
    checked[wrong] = MOST_OHM
    conductance = 1.0 / numpy.clip(checked, LEAST_OHM, MOST_OHM)
    conductance[wrong] = 0.0
    pushed = numpy.zeros(len(elements))
    for other in others:
        match diode := elements[other]:
            case Source():
                if not abs(diode.volts) <= MOST_VOLTS:
                    refused[diode.name] = f"a voltage of {diode.volts:g} V"
                    conductance[other] = 0.0
                pushed[other] = diode.volts * conductance[other] if conductance[other] else 0.0
            case Current():
                conductance[other] = 0.0
                if abs(diode.amps) <= MOST_AMPS:
                    pushed[other] = diode.amps
                else:
                    refused[diode.name] = f"a current of {diode.amps:g} A"
            case Diode():
                conductance[other] = BESIDE_S
                if not can_be(diode):
                    refused[diode.name] = "a saturation current or an emission that no diode has"
                    conductance[other] = 0.0
    return conductance, pushed
