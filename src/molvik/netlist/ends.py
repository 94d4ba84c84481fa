"""Read a wire's end as it is typed: "C3 12", "C3/12", "F7 out", "E1", "S4"."""

import re

from molvik.model.parts import LOOSE, Connector, End, terminals_of
from molvik.netlist.network import Network

LOOSE_WORDS = {"", "-", "loose", "open"}


class EndError(ValueError):
    """An end that cannot be read; the message is for the user."""


def read_end(text: str, network: Network) -> End:
    """Return the end a text means in this job. Raises EndError."""
    tidy = text.strip()
    if tidy.lower() in LOOSE_WORDS:
        return LOOSE
    code, place = _code_and_place(tidy, network)
    part = network.parts[code]
    if isinstance(part, Connector):
        known = network.cavities[code]
        cavity = place.upper()
        if not cavity:
            raise EndError(f"{code} is a connector: type its cavity too, for example {code} 1.")
        if cavity not in known:
            raise EndError(f"{part.name} ({code}) has no cavity {cavity}.")
        return End(code, cavity)
    terminals = terminals_of(part)
    for terminal in terminals:
        if terminal.lower() == place.lower():
            return End(code, terminal)
    if len(terminals) == 1 and not place:
        return End(code, terminals[0])
    choices = ", ".join(f"{code} {terminal}".strip() for terminal in terminals)
    raise EndError(f"{part.name or code} has no terminal “{place}”. Type {choices}.")


def _code_and_place(tidy: str, network: Network) -> tuple[str, str]:
    """Return the code of a part in the job, the longest that fits, and what is typed behind it."""
    capitals = tidy.upper()
    for length in range(min(len(capitals), network.longest_code), 0, -1):
        code = capitals[:length]
        if code not in network.parts:
            continue
        behind = re.fullmatch(r"(?:[\s/.:,-]+(.+)|(\+|-))?", tidy[length:])
        if behind is not None:
            return code, (behind.group(1) or behind.group(2) or "").strip()
    code_alone = re.fullmatch(r"([A-Z]+\d+)(?:[\s/.:,-]+.+|\+|-)?", capitals)
    if code_alone is None:
        raise EndError(f"“{tidy}” is not an end of a wire. Type for example C3 12, F7 out or E1.")
    raise EndError(f"There is no {code_alone.group(1)} in the job. Add it first, or type loose.")
