"""A quick sum asked in a line, as people type it: "14 awg 5 m 12 A", "fuse 1.5 mm2 8 A"."""

from collections.abc import Callable

from molvik.electrical.heat import outside_diameter_mm
from molvik.parsing.quantities import QuantityError
from molvik.sizes.sumline import HELP, Line
from molvik.sizes.sums import (
    AMBIENT_C,
    CABLE,
    CHARGE_DROP,
    STARTER_DROP,
    USUAL,
    Answer,
    battery_cable,
    bundle,
    bundle_heat,
    charge_cable,
    drop,
    fuse,
    gauge,
    lamp_resistor,
    largest_fuse,
    power,
    resistance,
    twist,
    wire,
)


def quick(text: str) -> Answer | None:
    """Return the answer to a line, None when it is not a sum; QuantityError for a wrong one.

    Whatever stands in the line and was not used is told.
    """
    line = Line(text)
    if not line.is_sum:
        return None
    if line.unknown:
        if line.verb or len(line.figures) + bool(line.sizes) > 1:
            raise QuantityError(f"“{line.unknown[0]}” is not understood. Type for example: {HELP}.")
        return None
    # In a sum about a power it is no load.
    power_words = "" if line.verb in ("power", "resistor") else line.power_as_current()
    answer = _answer(line)
    if answer is None:
        return None
    if power_words:
        answer = answer._replace(working=(power_words, *answer.working))
    left = line.left()
    if not left:
        return answer
    told = f"Not used: {', '.join(left)}."
    return answer._replace(line=f"{answer.line} {told}", working=(told, *answer.working))


def _bundle(line: Line, loaded: bool) -> Answer:
    """Return what a bundle comes to: how hot when it is loaded, else how thick."""
    wires = [(count, size) for count, size, _ in line.sizes]
    line.sizes = []
    kind = line.take_kind(USUAL)
    if wires and loaded:
        return bundle_heat(wires, line.take("A") or 0.0, _air(line), kind)
    widths = [(n, outside_diameter_mm(size, kind)) for n, size in wires]
    return bundle(widths or [(1, mm * 1000) for mm in line.take_all("m")])


def _cable(line: Line) -> Answer:
    """Return the cable for a starter, or for what charges."""
    amps, length, air = line.take("A") or 0.0, line.take("m") or 0.0, _air(line)
    volts, share = _volts_and_share(line)
    if line.verb == "cable":
        return battery_cable(
            amps,
            length,
            volts,
            air,
            line.take_kind(CABLE),
            STARTER_DROP if share is None else share,
        )
    return charge_cable(
        amps,
        length,
        volts,
        CHARGE_DROP if share is None else share,
        air,
        line.take_kind(USUAL),
        return_too=line.take_back(),
    )


def _answer(line: Line) -> Answer | None:
    """Ask the sum that a line is about, with what stands in it."""
    figures = {name for name, items in line.figures.items() if items}

    def lacks() -> QuantityError:
        return QuantityError(f"“{line.text}” lacks something. Type for example: {HELP}.")

    match line.verb:
        case "bundle":
            if not line.sizes and "m" not in figures:
                raise lacks()
            return _bundle(line, "A" in figures)
        case "twist":
            lengths = line.take_all("m")
            if len(lengths) < 2:
                raise lacks()
            size, kind = line.take_size(), line.take_kind(USUAL)
            wide = outside_diameter_mm(size, kind) if size else 2.0
            return twist(lengths[0], lengths[1] * 1000, lengths[2] * 1000 if lengths[2:] else wide)
        case "resistor":
            volts = line.take_all("V")
            if len(volts) != 2 or "A" not in figures:
                raise lacks()
            return lamp_resistor(max(volts), min(volts), line.take("A") or 0.0)
        case "power":
            if "ohm" not in figures:
                raise lacks()
            ohm, across = line.take("ohm") or 0.0, line.take("V")
            return power(ohm, across, line.take("A") if across is None else None)
        case "cable" | "charge":
            if not {"A", "m"} <= figures:
                raise lacks()
            return _cable(line)
        case "fuse":
            size = line.take_size()
            if size is None:
                raise lacks()
            if "A" not in figures:
                return largest_fuse(size, _air(line), line.take_kind(USUAL))
            return fuse(size, line.take("A") or 0.0, _air(line), line.take_kind(USUAL))
        case "gauge" if line.sizes:
            size = line.take_size()
            assert size is not None
            return gauge(size, line.take_kind(USUAL))
        case _:
            return _wire_or_drop(line, figures, lacks)


def _wire_or_drop(
    line: Line, figures: set[str], lacks: Callable[[], QuantityError]
) -> Answer | None:
    """Answer what has no verb of its own: a size with a length, or a current with one."""
    has_size = bool(line.sizes)
    if "m" in figures and (has_size or "A" in figures):
        size, length, back = line.take_size(), line.take("m") or 0.0, line.take_back()
        if "A" not in figures:
            assert size is not None
            return resistance(size, length, return_too=back)
        amps, (volt, share) = line.take("A") or 0.0, _volts_and_share(line)
        air, kind = _air(line), line.take_kind(USUAL)
        if size is not None:
            return drop(size, length, amps, volt, share, air, kind, return_too=back)
        return wire(
            amps, length, volt, 0.03 if share is None else share, air, kind, return_too=back
        )
    if line.verb:
        raise lacks()
    if has_size and not figures - {"C", "V"}:
        size = line.take_size()
        assert size is not None
        return gauge(size, line.take_kind(USUAL))
    return None


def _volts_and_share(line: Line) -> tuple[float, float | None]:
    """Take the system's voltage, V, and the share of it that may be lost, out of a line."""
    volts, lost = line.take_volts()
    share, system_v = line.take("share"), 12.0 if volts is None else volts
    if lost is None:
        return system_v, share
    if share is not None:
        raise QuantityError("Say the voltage drop allowed once: in volts or in per cent.")
    return system_v, lost / system_v


def _air(line: Line) -> float:
    air = line.take("C")
    return AMBIENT_C if air is None else air
