"""A new wire with what the pinouts know of it; where they differ, the user says whose counts."""

from msgspec.structs import replace
from PySide6.QtWidgets import QWidget

from molvik.desktop.dialogs.questions import Answer, question
from molvik.model.parts import Wire
from molvik.netlist.known import known_of
from molvik.netlist.network import Network


class WhoseWord:
    """Remembers, for each two plugs whose pinouts differ, which of them counts: it is asked once,
    for the first wire between them.
    """

    def __init__(self, parent: QWidget) -> None:
        self._parent = parent
        self._counts: dict[frozenset[str], str] = {}

    def forget(self) -> None:
        """Another job: ask anew."""
        self._counts.clear()

    def known(self, network: Network, wire: Wire) -> Wire | None:
        """Return a wire with what the pinouts at its ends say; None where it was given up."""
        known, differs = known_of(network, wire)
        if not differs:
            return known
        plugs = frozenset(end.at for end in wire.ends)
        if plugs not in self._counts and not self._ask(network, wire, differs, plugs):
            return None
        if self._counts[plugs] == wire.start.at:
            return known
        turned = known_of(network, replace(wire, start=wire.finish, finish=wire.start)).wire
        return replace(turned, start=wire.start, finish=wire.finish, function=known.function)

    def _ask(
        self, network: Network, wire: Wire, differs: tuple[str, ...], plugs: frozenset[str]
    ) -> bool:
        said = "\n".join(line.partition(";")[0] for line in differs)
        names = {end.at: getattr(network.parts.get(end.at), "name", "") for end in wire.ends}
        chosen = question(
            self._parent,
            "The pinouts differ",
            f"What is said of {wire.code} at its ends differs. Which counts, for this wire and the "
            "next ones between the two?",
            said,
            [Answer(code, f"{code} {name}"[:40].strip()) for code, name in names.items()],
        )
        if chosen:
            self._counts[plugs] = chosen
        return bool(chosen)
