"""What is read off a meter or seen, as it is typed or listed in a table."""

import re

from msgspec.structs import replace

from molvik.devices.states import NAMED
from molvik.model.job import Reading
from molvik.model.parts import End
from molvik.netlist.ends import EndError, read_end
from molvik.netlist.network import Network
from molvik.parsing.quantities import read_current_a, read_ohm, read_volts
from molvik.parsing.tables import RawTable
from molvik.proving.observations import WORDS, Observation
from molvik.proving.points import Point
from molvik.proving.proofplan import ProofPlan
from molvik.proving.taken import taken
from molvik.proving.validity import loom_fingerprint

STANDS = ("alive", "weak", "dead")
_VOLTS = re.compile(r"([-+]?\d*[.,]?\d+)\s*(m?)v(?:olts?|dc)?", re.IGNORECASE)


def seen_of_text(
    network: Network, red: str, black: str, shown: str, state: str = "", leads_ohm: float = 0.0
) -> Observation:
    """Read one line: where the probes were, and what was shown there.

    "C2/14", "C9/1", "0.3" is ohms on the bench; with a state, "12.1 V" is volts, against the
    battery's earthed pole where no black probe is named; "D12", "", "dead" is how a device stands.
    Ohms may have the leads in them. Raises ValueError.
    """
    text = shown.strip()
    if state and state not in NAMED:
        raise ValueError(f"There is no state “{state}”. Type one of: {', '.join(NAMED)}.")
    stands = text.lower()
    if stands in STANDS:
        code = red.strip().upper()
        if not any(device.code == code for device in network.job.devices):
            raise ValueError(f"{red.strip() or 'Nothing'} is not a device that can be {stands}.")
        if not state:
            raise ValueError(f"Say in which state {code} is {stands}: {', '.join(NAMED)}.")
        return Observation(Point.of("device", End(code), End(), state), stands)
    volts = _VOLTS.fullmatch(text)
    if volts:
        if not state:
            raise ValueError(f"{text} was read in which state? Type one of: {', '.join(NAMED)}.")
        value = float(volts[1].replace(",", ".")) / (1000 if volts[2] else 1)
        other = _end(network, black) if black.strip() else End()
        if not other.at and network.job.settings.earthed == "plus":
            # Whichever lead was on plus, nothing in the vehicle is above it.
            value = abs(value)
        return Observation(Point.of("voltage", _end(network, red), other, state), value)
    if state and state != "off":
        raise ValueError(
            f"“{text}” are ohms, in {state}: never ohms on a live wire. Power off, or type volts: "
            "12.1 V."
        )
    ohm = read_ohm(text)
    one, two = _end(network, red), _end(network, black)
    if one == two:
        raise ValueError(f"Both probes are at {one}.")
    return Observation(
        Point.of("resistance", one, two), None if ohm is None else max(0.0, ohm - leads_ohm)
    )


def seen_of_shown(point: Point, text: str, leads_ohm: float = 0.0) -> Observation:
    """Return what was seen at a point, as it is typed: in its own unit, or in words. Ohms have the
    leads in them. Raises ValueError.
    """
    said = text.strip()
    words = [word for word, what in WORDS.items() if what == point.what]
    if words:
        found = next((word for word in words if word.lower() == said.lower()), None)
        if found is None:
            raise ValueError(f"Type one of: {', '.join(words)}.")
        return Observation(point, found)
    match point.what:
        case "resistance":
            ohm = read_ohm(said)
            return Observation(point, None if ohm is None else max(0.0, ohm - leads_ohm))
        case "current":
            return Observation(point, read_current_a(said))
        case _:
            volts = read_volts(said)
            return Observation(point, volts)


def has_readings(raw: RawTable) -> bool:
    """Return whether a table lists readings: its first row heads the columns red and reading."""
    return {"red", "reading"} <= set(_heads(raw))


def seen_of_table(raw: RawTable, network: Network) -> list[Observation]:
    """Return what a table of readings lists, under its headings red, black, reading and state, and
    out for what was pulled meanwhile, where it has that; in ohms with the leads of the job's meter
    in them. Raises ValueError, with the row.
    """
    heads, found = _heads(raw), []
    if not has_readings(raw):
        raise ValueError("it has no columns headed red, black, reading and state.")
    for line in raw.rows[1:]:
        cells = dict(zip(heads, (cell.strip() for cell in line.cells), strict=False))
        if not any(cells.values()):
            continue
        try:
            seen = seen_of_text(
                network,
                cells.get("red", ""),
                cells.get("black", ""),
                cells.get("reading", ""),
                cells.get("state", ""),
                network.job.settings.meter_leads_ohm,
            )
            found.append(_with_out(seen, network, cells.get("out", "")))
        except ValueError as error:
            raise ValueError(f"row {line.number}: {error}") from error
    return found


def _with_out(seen: Observation, network: Network, text: str) -> Observation:
    """Return what was seen with what was pulled meanwhile. Raises ValueError."""
    known = {code.upper(): code for code in network.parts}
    words = text.replace(",", " ").split()
    unknown = [word for word in words if word.upper() not in known]
    if unknown:
        raise ValueError(f"There is no {unknown[0]} that could have been out.")
    point, out = seen.point, tuple(known[word.upper()] for word in words)
    if not out or point.is_on_bench:  # there all is unplugged
        return seen
    return seen._replace(point=Point.of(point.what, point.red, point.black, point.state, out))


def _heads(raw: RawTable) -> list[str]:
    return [cell.strip().lower() for cell in raw.rows[0].cells] if raw.rows else []


def reading_of(seen: Observation, plan: ProofPlan, at: str, leads_ohm: float = 0.0) -> Reading:
    """Return what was seen as a reading of the job. leads_ohm: that were taken off it."""
    point, settings = seen.point, plan.job.settings
    points = (point.red, point.black)
    if point.what == "resistance":
        value = None if seen.shown is None else float(seen.shown) + leads_ohm
        made = taken(settings, at, "resistance", value, points)
        return replace(made, leads_ohm=leads_ohm)
    fingerprint = loom_fingerprint(plan)
    if isinstance(seen.shown, str):
        return taken(
            settings,
            at,
            "words",
            None,
            points,
            state=point.state,
            said=seen.shown,
            fingerprint=fingerprint,
            out=point.out,
        )
    return taken(
        settings,
        at,
        "current" if point.what == "current" else "voltage",
        seen.shown,
        points,
        state=point.state,
        fingerprint=fingerprint,
        out=point.out,
    )


def point_of_text(network: Network, text: str) -> Point:
    """Read where probes are put: "C2/14 C9/1" is ohms with the power off, "C2/14 in run" volts
    against the battery's earthed pole, "C2/14 E1 in run" against another point. Raises ValueError.
    """
    words, _, state = text.strip().partition(" in ")
    places = words.split()
    state = state.strip()
    if state and state not in NAMED:
        raise ValueError(f"There is no state “{state}”. Type one of: {', '.join(NAMED)}.")
    if not 1 <= len(places) <= 2 or (not state and len(places) != 2):
        raise ValueError("Type two points for ohms, C2/14 C9/1, or C2/14 in run for volts.")
    red = _end(network, places[0])
    black = _end(network, places[1]) if len(places) == 2 else End()
    if red == black:
        raise ValueError(f"Both probes are at {red}.")
    return Point.of("voltage" if state else "resistance", red, black, state)


def _end(network: Network, text: str) -> End:
    if not text.strip():
        raise ValueError("Say where both probes were: C2/14 and C9/1.")
    try:
        return read_end(text.strip(), network)
    except EndError as error:
        raise ValueError(str(error)) from error
