"""What takes part in a repinning: the leads that sit in cavities, and what the cavities want."""

from typing import NamedTuple

from molvik.lazy import cached_property
from molvik.model.crossover import OriginalPosition, RepinSet
from molvik.model.geometry import places
from molvik.model.parts import Colour, Connector, End, Pin, Wire, WireSize
from molvik.model.refs import Ref, end_text
from molvik.netlist.network import Network
from molvik.parsing.functions.telling import Telling, telling
from molvik.parsing.functions.words import Said, said


class Lead(NamedTuple):
    """A terminal with its wires. place: the cavity it sat in at the start, "C1/5".

    wires: none when only a table tells of it.
    """

    place: str
    wires: tuple[tuple[str, str], ...]
    function: str
    circuit: str
    note: str
    colour: Colour | None
    size: WireSize | None

    @property
    def said(self) -> Said:
        """What its function says."""
        return said(self.function, self.circuit, self.note)

    @property
    def telling(self) -> Telling:
        """What tells it from others."""
        return telling(self.function, self.circuit)


class Want(NamedTuple):
    """What a cavity of the target is for. place: "C2/33"."""

    place: str
    function: str
    circuit: str
    note: str
    colour: Colour | None
    size: WireSize | None

    @property
    def said(self) -> Said:
        """What its function says."""
        return said(self.function, self.circuit, self.note)

    @property
    def telling(self) -> Telling:
        """What tells it from others."""
        return telling(self.function, self.circuit)


def list_name(code: str) -> str:
    """The name of a set's list of steps, for its ticks."""
    return f"repin {code}"


class Repin:
    """One repin set of a job with everything it takes its answers from."""

    def __init__(self, network: Network, repin: RepinSet) -> None:
        self.network, self.job, self.set = network, network.job, repin

    @cached_property
    def target(self) -> Connector | None:
        """The connector that is to be right."""
        return self.job.connector(self.set.target)

    @cached_property
    def connectors(self) -> tuple[Connector, ...]:
        """All connectors that take part, the target last."""
        codes = dict.fromkeys((*self.set.sources, self.set.target))
        codes.pop(self.set.target, None)
        every = [self.job.connector(code) for code in (*codes, self.set.target)]
        return tuple(connector for connector in every if connector is not None)

    @cached_property
    def ranks(self) -> dict[str, tuple[int, float, float]]:
        """Where each place lies: its connector, row and column, for working along rows."""
        return {
            end_text(connector.code, place.cavity): (index, place.row, place.column)
            for index, connector in enumerate(self.connectors)
            for place in places(connector.grid)
        }

    @cached_property
    def wants(self) -> tuple[Want, ...]:
        """What the target's cavities are for."""
        target = self.target
        if target is None:
            return ()
        if self.set.kind == "one to one":
            return self._one_to_one(target)
        pins = target.pins
        if self.set.wanted:
            named = (p for p in self.job.pinouts if p.connector == target.code)
            pins = next((p.pins for p in named if p.name == self.set.wanted), ())
        known = self.network.cavities.get(target.code, frozenset())
        return tuple(
            Want(end_text(target.code, p.cavity), p.function, p.circuit, p.note, p.colour, p.size)
            for p in pins
            if p.cavity in known and not p.fill and (p.function or p.circuit)
        )

    def _one_to_one(self, target: Connector) -> tuple[Want, ...]:
        known = self.network.cavities.get(target.code, frozenset())
        found: dict[str, Want] = {}
        for lead in self.leads:
            place = end_text(target.code, End.of(lead.place).cavity)
            if Ref.parse(lead.place).code != target.code and End.of(place).cavity in known:
                found.setdefault(place, Want(place, *lead[2:]))
        return tuple(found.values())

    @cached_property
    def leads(self) -> tuple[Lead, ...]:
        """Everything that sits in the cavities of the set at its start."""
        found: list[Lead] = []
        for connector in self.connectors:
            pins = {pin.cavity: pin for pin in connector.pins}
            originals = self._original(connector)
            for place in places(connector.grid):
                where = end_text(connector.code, place.cavity)
                # In the target, a pin is what is wanted; elsewhere it is what is there.
                there = connector.code in self.set.sources or connector.code != self.set.target
                pin = pins.get(place.cavity) if there else None
                # A lead may be known from its table alone, as most are in the beginning.
                listed = pin is not None and not pin.fill and bool(pin.function or pin.circuit)
                if where in originals or (listed and not self.begun):
                    found.append(self._lead(where, originals.get(where, ()), pin))
        return tuple(found)

    @cached_property
    def begun(self) -> bool:
        """Whether a step was ticked: from then on the leads are those that sat there at the start,
        and a wire that was made since is none of them.
        """
        ticked = any(tick.list == list_name(self.set.code) for tick in self.job.ticks)
        return ticked or bool(self.set.start)

    def _original(self, connector: Connector) -> dict[str, tuple[tuple[str, str], ...]]:
        """Return what sat in a connector's cavities at the start of the work."""
        if self.begun:
            return {
                seat.place: seat.wires
                for seat in self.set.start
                if Ref.parse(seat.place).code == connector.code
            }
        found: dict[str, tuple[tuple[str, str], ...]] = {}
        for cavity in self.network.cavities.get(connector.code, frozenset()):
            end = End(connector.code, cavity)
            wires = self.network.wires_at.get(end, [])
            if wires:
                found[str(end)] = tuple(
                    (wire.code, "start" if wire.start == end else "finish") for wire in wires
                )
        return found

    def _lead(self, where: str, wires: tuple[tuple[str, str], ...], pin: Pin | None) -> Lead:
        known = [self.network.wires[code] for code, _ in wires if code in self.network.wires]
        first = known[0] if known else Wire("")
        pin = pin or Pin("")
        return Lead(
            where,
            wires,
            pin.function or first.function,
            pin.circuit or first.circuit,
            pin.note if pin.function else first.note,
            first.colour or pin.colour,
            first.size or pin.size,
        )

    @cached_property
    def original_positions(self) -> tuple[OriginalPosition, ...]:
        """The leads as they sat at the start, to be kept when the first step is done."""
        return tuple(OriginalPosition(lead.place, lead.wires) for lead in self.leads)  # type: ignore[arg-type]

    @cached_property
    def by_place(self) -> dict[str, Lead]:
        """The leads by where they sat."""
        return {lead.place: lead for lead in self.leads}

    @cached_property
    def wanted_at(self) -> dict[str, Want]:
        """The wants by their place."""
        return {want.place: want for want in self.wants}
