"""What some changed edges make of a network that was solved: its voltages, and what floats now."""

from collections.abc import Mapping
from types import MappingProxyType
from typing import Any, NamedTuple, Protocol

from molvik.lazy import cached_property

FLOATS_OHM = 2e7
"""From here on a node hangs on leaks only, ohms to the reference: nothing in a vehicle has more."""


class Edge(NamedTuple):
    """A change between two nodes: of conductance, S, and of the current pushed into the first.
    place: of the element that is changed, -1 for a new one.
    """

    a: int
    b: int
    siemens: float
    amps: float = 0.0
    place: int = -1


class Changed(NamedTuple):
    """A network after some edges changed. a, b: their nodes; columns: what each does to all nodes,
    ohms; siemens: by how much each changed; matrix: what they do to one another; volts: of all
    nodes; parts: whether anything may float now that did not, or hang on something again.
    """

    a: list[int]
    b: list[int]
    columns: Any
    siemens: Any
    matrix: Any
    volts: Any
    parts: bool

    def answered(self, sound: Any) -> Any:
        """Return what currents do to all nodes, from what they did before, ohms."""
        import numpy

        across = sound[self.a] - sound[self.b]
        return sound - self.columns @ (
            self.siemens[:, None] * numpy.linalg.solve(self.matrix, across)
        )


class Sound(Protocol):
    """The network before. index: the place of each node; ohms: from each to the reference."""

    @property
    def index(self) -> Mapping[str, int]:
        """The place of each node."""

    @property
    def ohms(self) -> Any:
        """What lies between each node and the reference, ohms."""


class Corrected:
    """The voltages of all nodes after some changes. changed: by what, for the ohms to the
    reference. diodes: what those that were found anew carry beyond their straight lines, A, by
    name.
    """

    def __init__(
        self,
        sound: Sound,
        volts: Any,
        changed: Changed | None = None,
        diodes: Mapping[str, float] = MappingProxyType({}),
    ) -> None:
        self.sound, self.volts, self._changed, self.diodes = sound, volts, changed, diodes

    @cached_property
    def floats(self) -> Any:
        """Which nodes nothing joins to the reference."""
        import numpy

        ohms = self.sound.ohms
        changed, self._changed = self._changed, None  # hundreds of these are kept
        if changed is not None and changed.parts:
            columns = changed.columns
            weights = changed.siemens[:, None] * numpy.linalg.inv(changed.matrix)
            ohms = ohms - ((columns @ weights) * columns).sum(axis=1)
        return ohms > FLOATS_OHM
