"""What is particular to a device as people type it: terminals, figures, positions, outputs."""

import re
import typing
from collections.abc import Iterable

from molvik.devices import KINDS
from molvik.model.curve import curve_problem
from molvik.model.parts import Output, Position
from molvik.numbers import is_number, read_number

ACTS = ("pulls low", "feeds high", "5 V")
WHENS = tuple(typing.get_args(typing.get_type_hints(Output)["when"]))

POSITIONS_HOW = "off; on: 30-53; pressed*: 1-2 (* springs back; case is its body)"
OUTPUTS_HOW = f"2 pulls low powered; 5 feeds high input live 12. When: {', '.join(WHENS)}"


def positions_text(positions: tuple[Position, ...]) -> str:
    """Return positions as they are typed."""
    said = []
    for position in positions:
        joins = " ".join("-".join(pair) for pair in position.joins)
        said.append(
            f"{position.name}{'*' if position.momentary else ''}{': ' + joins if joins else ''}"
        )
    return "; ".join(said)


def read_positions(text: str, terminals: tuple[str, ...]) -> tuple[Position, ...]:
    """Return the positions that are typed; ValueError says which cannot be."""
    found: list[Position] = []
    known = {*terminals, "case"}
    for words in filter(None, (part.strip() for part in text.split(";"))):
        name, _, pairs = words.partition(":")
        momentary = name.rstrip().endswith("*")
        name = name.strip().rstrip("*").strip()
        joins: list[tuple[str, str]] = []
        for pair in pairs.replace(",", " ").split():
            one, _, other = pair.partition("-")
            if one not in known or other not in known or one == other:
                raise ValueError(f"“{pair}” does not join two terminals. Type: {POSITIONS_HOW}.")
            joins.append((one, other))
        if not name or name.lower() in (position.name.lower() for position in found):
            raise ValueError(f"“{words}” needs a name of its own. Type: {POSITIONS_HOW}.")
        found.append(Position(name, tuple(joins), momentary))
    return tuple(found)


def outputs_text(outputs: tuple[Output, ...]) -> str:
    """Return outputs as they are typed."""
    said = (f"{o.terminal} {o.acts} {o.when}{' ' + o.input if o.input else ''}" for o in outputs)
    return "; ".join(said)


def read_outputs(text: str) -> tuple[Output, ...]:
    """Return the outputs that are typed; ValueError says which cannot be."""
    found = []
    for words in filter(None, (part.strip() for part in text.split(";"))):
        terminal, _, rest = words.partition(" ")
        acts = next((one for one in ACTS if rest.lower().startswith(one.lower())), "")
        when_text = rest[len(acts) :].strip() or "powered"
        # The longest first: "first seconds and turning" before "first seconds".
        longest = sorted(WHENS, key=len, reverse=True)
        when = next((one for one in longest if when_text.lower().startswith(one)), "")
        given = when_text[len(when) :].strip()
        wanted = when in ("input live", "input low")
        if not acts or not when or bool(given) != wanted:
            raise ValueError(f"“{words}” is not understood. Type: {OUTPUTS_HOW}.")
        found.append(Output(terminal, acts, when, given))  # type: ignore[arg-type]
    return tuple(found)


def joins_text(joins: tuple[tuple[str, str], ...]) -> str:
    """Return pairs of terminals as they are typed."""
    return " ".join("-".join(pair) for pair in joins)


def read_terminals(text: str) -> tuple[str, ...]:
    """Return the names of terminals that are typed, each once."""
    return tuple(dict.fromkeys(text.replace(",", " ").split()))


def read_joins(text: str, terminals: tuple[str, ...]) -> tuple[tuple[str, str], ...]:
    """Return the pairs of terminals that are typed; ValueError says which is none."""
    joins: list[tuple[str, str]] = []
    for pair in text.replace(",", " ").split():
        one, _, other = pair.partition("-")
        if one not in terminals or other not in terminals:
            raise ValueError(f"“{pair}” does not join two of its terminals. Type 30-87.")
        joins.append((one, other))
    return tuple(joins)


def figures_text(values: Iterable[tuple[str, float]]) -> str:
    """Return figures as they are typed: "A=2 set_V=14.2"."""
    return " ".join(f"{name.replace(' ', '_')}={value:g}" for name, value in values)


def read_figures(text: str, kind: str) -> tuple[tuple[str, float], ...]:
    """Return the figures of its own that are typed of a kind of device; ValueError says which it
    does not have.
    """
    known = KINDS[kind].figures
    found = []
    for word in text.split():
        name, _, figure = word.partition("=")
        name = name.replace("_", " ")
        if name not in known and name not in ("A", "ohm"):
            names = figure_names(kind)
            raise ValueError(f"“{word}” is not a figure of a {kind}. It has: {names}.")
        if not is_number(figure) or not 0 < read_number(figure) < 1e9:
            raise ValueError(f"“{word}” has no number above zero. Type for example A=2.")
        found.append((name, read_number(figure)))
    return tuple(found)


def figure_names(kind: str) -> str:
    """Return the names of the figures that a kind of device has, as they are typed."""
    return ", ".join(name.replace(" ", "_") for name in KINDS[kind].figures) or "A, ohm"


CURVE_HOW = "20 2500, 90 240 (a value, a blank, ohms)"


def read_curve(text: str) -> tuple[tuple[float, float], ...]:
    """Return typed points of a value and its ohms, in the order of the values. Raises ValueError
    for what is not understood, two points at one value, ohms that are not above zero, and a curve
    that turns back.
    """
    found: list[tuple[float, float]] = []
    for part in filter(None, (one.strip() for one in re.split(r"[,;\n]", text))):
        words = part.replace("=", " ").replace(":", " ").split()
        if len(words) != 2 or not all(map(is_number, words)):
            raise ValueError(f"“{part}” is not a value and its ohms. Type {CURVE_HOW}.")
        found.append((read_number(words[0]), read_number(words[1])))
    points = tuple(sorted(found))
    if points and (problem := curve_problem(points)):
        raise ValueError(f"{problem}.")
    return points


def curve_text(points: tuple[tuple[float, float], ...]) -> str:
    """Return points as they are typed."""
    return ", ".join(f"{value:g} {ohm:g}" for value, ohm in points)
