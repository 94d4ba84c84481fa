"""Quick sums: one question, one line of answer, the working on demand. No job is needed."""

import math
from typing import NamedTuple

from molvik.electrical.bundle import Core, bundle_temperatures_c
from molvik.electrical.conductor import (
    area_mm2,
    equivalence_text,
    resistance_20_ohm_per_m,
    resistance_ohm_per_m,
)
from molvik.electrical.fusing import (
    carries_share,
    choose_fuse,
    largest_protecting_a,
    smallest_carrying_a,
)
from molvik.electrical.heat import (
    conductor_temperature_c,
    current_for_temperature_a,
    outside_diameter_mm,
)
from molvik.electrical.transient import duty_allowed_a
from molvik.model.parts import WireSize
from molvik.parsing.quantities import QuantityError
from molvik.reference.bundles import CIRCLE_RATIO, across_mm
from molvik.reference.copper import AWG_SIZES, METRIC_SIZES
from molvik.reference.fuses import PROPOSED, RATINGS_A, curve_of
from molvik.reference.insulation import Insulation, insulation
from molvik.reference.limits import CRANK_S, HEAT_MARGIN_K, LEAST_MM2, REST_S
from molvik.wording import figures

CAUTION = (
    "One wire alone in still air. Battery off first, fuse at the source; local rules come first."
)

USUAL = insulation("C125")
CABLE = insulation("SGX")
AMBIENT_C = 60.0
STARTER_DROP = 0.02
CHARGE_DROP = 0.03
MOST_WIRES = 500
"""More wires than a loom has."""


class Answer(NamedTuple):
    """line: the answer. working: how it came about. values: the figures, by name with unit."""

    line: str
    working: tuple[str, ...]
    values: dict[str, float | str | None]


def wire(
    amps: float,
    length_m: float,
    volts: float = 12.0,
    drop_share: float = 0.03,
    ambient_c: float = AMBIENT_C,
    kind: Insulation = USUAL,
    return_too: bool = False,
) -> Answer:
    """Return the smallest wire for a current over a length: drop, heat and strength.

    drop_share: of the voltage, over this wire; with ``return_too`` over a return as long as well.
    """
    _above(("Current", amps), ("Length", length_m), ("Voltage", volts))
    _share(drop_share)
    ways = 2 if return_too else 1
    found: list[WireSize | None] = []
    working = [
        f"May drop {drop_share * volts:.2f} V, {drop_share:.1%} of {volts:g} V, over "
        f"{length_m * ways:g} m{' there and back' if return_too else ''}."
    ]
    for sizes in (METRIC_SIZES, AWG_SIZES):
        best = None
        for size in sizes:
            lost = amps * length_m * ways * resistance_ohm_per_m(size, kind.limit_c)
            hot = current_for_temperature_a(size, kind, kind.limit_c - HEAT_MARGIN_K, ambient_c)
            if lost <= drop_share * volts and amps <= hot and area_mm2(size) >= 0.95 * LEAST_MM2:
                best = size
                working.append(
                    f"{size}: drops {lost:.3f} V hot, carries {hot:.1f} A at {ambient_c:g} °C in "
                    f"{kind.name} with {HEAT_MARGIN_K:g} K in hand."
                )
                break
        found.append(best)
    metric, awg = found
    way = _way(length_m, return_too)
    if metric is None and awg is None:
        line = f"No standard size carries {figures(amps)} A over {way} so. Shorten it or share it."
    else:
        line = (
            f"{_either(metric, awg)} for {figures(amps)} A over {way}, in {_in(kind, ambient_c)}."
        )
    working.append(CAUTION)
    return Answer(
        line,
        tuple(working),
        {"metric": str(metric) if metric else None, "awg": str(awg) if awg else None},
    )


def drop(
    size: WireSize,
    length_m: float,
    amps: float,
    volts: float = 12.0,
    drop_share: float | None = None,
    ambient_c: float = AMBIENT_C,
    kind: Insulation = USUAL,
    return_too: bool = False,
) -> Answer:
    """Return what a wire loses, cold and as warm as it gets, and whether it bears that."""
    _above(("Length", length_m), ("Current", amps), ("Voltage", volts))
    ways = 2 if return_too else 1
    hot_c = conductor_temperature_c(size, kind, amps, ambient_c)
    cold = amps * length_m * ways * resistance_20_ohm_per_m(size)
    warm = amps * length_m * ways * resistance_ohm_per_m(size, hot_c)
    line = (
        f"{size}, {_way(length_m, return_too)} at {figures(amps)} A drops {warm:.3f} V, "
        f"{warm / volts:.1%} of {volts:g} V, and runs at {hot_c:.0f} °C in {_in(kind, ambient_c)}."
    )
    if drop_share is not None:
        _share(drop_share)
        enough = warm <= drop_share * volts
        within = f" That is within the {drop_share:.1%} that it may drop."
        line += within if enough else " Too thin for that voltage drop."
    if hot_c > kind.limit_c:
        line = f"Too thin: its insulation bears {kind.limit_c:g} °C. {line}"
    working = (
        f"{resistance_20_ohm_per_m(size) * 1000:.2f} mΩ/m at 20 °C: {cold:.3f} V cold.",
        f"Warm, {hot_c:.0f} °C in air of {ambient_c:g} °C: {warm:.3f} V.",
        "There and back."
        if return_too
        else "That is one way: a return as long drops as much again (say “there and back”).",
        CAUTION,
    )
    return Answer(line, working, {"drop_v": warm, "share": warm / volts, "temperature_c": hot_c})


def resistance(size: WireSize, length_m: float, return_too: bool = False) -> Answer:
    """Return the resistance of a length at 20 deg C."""
    _above(("Length", length_m))
    ohm = resistance_20_ohm_per_m(size) * length_m * (2 if return_too else 1)
    line = f"{size}, {_way(length_m, return_too)}: {ohm * 1000:.2f} mΩ at 20 °C."
    working = (f"{resistance_20_ohm_per_m(size) * 1000:.3f} mΩ/m; 0.39 % more for each kelvin.",)
    return Answer(line, working, {"ohm": ohm})


def gauge(size: WireSize, kind: Insulation = USUAL) -> Answer:
    """Return how a size stands in the other system."""
    working = (
        f"{area_mm2(size):.3f} mm² of copper, {outside_diameter_mm(size, kind):.2f} mm over "
        f"{kind.name}.",
    )
    return Answer(equivalence_text(size), working, {"area_mm2": area_mm2(size)})


def fuse(
    size: WireSize, amps: float, ambient_c: float = AMBIENT_C, kind: Insulation = USUAL
) -> Answer:
    """Return the fuse for a wire and its load."""
    _above(("Current", amps))
    chosen = choose_fuse(size, kind, ambient_c, amps)
    share = carries_share(ambient_c)
    most = {one: largest_protecting_a(size, kind, ambient_c, one) for one in PROPOSED}
    wanted = {one: smallest_carrying_a(amps, one, ambient_c) for one in PROPOSED}
    working = [
        f"A fuse carries {share:.0%} of its rating for ever in air of {ambient_c:g} °C: "
        f"{figures(amps)} A wants {amps / share:.1f} A.",
        *(
            f"{one.capitalize()}: "
            + (f"{wanted[one]:g} A carries it; " if wanted[one] else "none is large enough; ")
            + f"{size} in {kind.name} is protected by at most {most[one]:.1f} A, at its slowest."
            for one in PROPOSED
        ),
        "A motor's inrush and the fuse before it are not judged here.",
        CAUTION,
    ]
    if chosen is None:
        line = (
            f"No fuse carries {figures(amps)} A and protects {size} in {_in(kind, ambient_c)}: "
            "take a thicker wire."
        )
        return Answer(line, tuple(working), {"kind": None, "rating_a": None})
    fitting, rating = chosen
    line = f"{rating:g} A {fitting} for {size} at {figures(amps)} A, in {_in(kind, ambient_c)}."
    hot_c = conductor_temperature_c(size, kind, amps, ambient_c)
    if hot_c > kind.limit_c:
        line = f"Too thin: its insulation bears {kind.limit_c:g} °C, the load makes {hot_c:.0f} °C."
        return Answer(line, tuple(working), {"kind": None, "rating_a": None})
    return Answer(line, tuple(working), {"kind": fitting, "rating_a": rating})


def largest_fuse(size: WireSize, ambient_c: float = AMBIENT_C, kind: Insulation = USUAL) -> Answer:
    """Return the largest fuses that protect a wire, whatever it carries."""
    values: dict[str, float | str | None] = {}
    said, working = [], []
    for family in PROPOSED:
        most = largest_protecting_a(size, kind, ambient_c, family)
        made = [
            rating
            for rating in RATINGS_A[family]
            if rating
            <= min(most, largest_protecting_a(size, kind, ambient_c, curve_of(family, rating)))
        ]
        values[family] = max(made, default=None)
        if made:
            said.append(f"{max(made):g} A {family}")
        working.append(f"{family.capitalize()}: protected by at most {most:.1f} A, at its slowest.")
    line = (
        f"At most {' or '.join(said)} for {size}, in {_in(kind, ambient_c)}."
        if said
        else f"No fuse that is made protects {size} in {_in(kind, ambient_c)}."
    )
    return Answer(line, (*working, "Add the load to have one chosen for it: 8 A.", CAUTION), values)


def battery_cable(
    amps: float,
    length_m: float,
    volts: float = 12.0,
    ambient_c: float = AMBIENT_C,
    kind: Insulation = CABLE,
    drop_share: float = STARTER_DROP,
) -> Answer:
    """Return the cable for a starter: what it loses, and how hot it gets, while cranking."""
    _above(("Current", amps), ("Length", length_m), ("Voltage", volts))
    _share(drop_share)
    may, duty = drop_share * volts, (CRANK_S, REST_S)

    def bears(size: WireSize) -> bool:
        lost = amps * length_m * resistance_20_ohm_per_m(size)
        return lost <= may and duty_allowed_a(size, kind, kind.limit_c, duty, ambient_c) >= amps

    metric, awg = (
        next((size for size in sizes if bears(size)), None) for sizes in (METRIC_SIZES, AWG_SIZES)
    )
    line = (
        f"{_either(metric, awg)} for {figures(amps)} A of cranking over {length_m:g} m, not for "
        f"always: a charge cable is another sum. In {_in(kind, ambient_c)}."
    )
    working = (
        f"May drop {may:.2f} V while cranking, {drop_share:.1%} of {volts:g} V. Usual for each of "
        f"both cables: {STARTER_DROP:.0%}, half of the half volt of common practice (our choice).",
        f"Cranked {CRANK_S:g} s at a time with {REST_S:g} s of rest.",
        "The earth cable is as thick.",
        CAUTION,
    )
    return Answer(
        line, working, {"metric": str(metric) if metric else None, "awg": str(awg) if awg else None}
    )


def charge_cable(
    amps: float,
    length_m: float,
    volts: float = 12.0,
    drop_share: float = CHARGE_DROP,
    ambient_c: float = AMBIENT_C,
    kind: Insulation = USUAL,
    return_too: bool = False,
) -> Answer:
    """Return the cable for an alternator, which gives all it can for as long as it likes."""
    found = wire(amps, length_m, volts, drop_share, ambient_c, kind, return_too)
    return found._replace(
        line=f"For always, as charging is: {found.line}",
        working=(
            *found.working[:-1],
            "A starter cable, for cranking alone, is another sum.",
            found.working[-1],
        ),
    )


def twist(length_m: float, lay_length_mm: float, wire_mm: float) -> Answer:
    """Return how much longer the cores of a twisted pair are cut.

    A core runs along a helix whose diameter is the wire's own: sqrt(lay^2 + (pi d)^2) a turn.
    """
    _above(("Length", length_m), ("Lay", lay_length_mm), ("Diameter", wire_mm))
    share = math.hypot(lay_length_mm, math.pi * wire_mm) / lay_length_mm
    line = f"Cut each core {length_m * share:.3f} m for {length_m:g} m: {share - 1:.1%} more."
    working = (
        f"{1000 / lay_length_mm:.0f} turns a metre; a core runs {share:.4f} times the length.",
    )
    return Answer(line, working, {"length_m": length_m * share, "share": share})


def bundle_heat(
    wires: list[tuple[int, WireSize]],
    amps: float,
    ambient_c: float = AMBIENT_C,
    kind: Insulation = USUAL,
) -> Answer:
    """Return how hot the hottest wire of a bundle gets with the same current in each."""
    _above(("Current", amps))
    _few_enough(sum(count for count, _ in wires))
    cores = [Core(size, kind, amps) for count, size in wires for _ in range(count)]
    hottest = max(bundle_temperatures_c(cores, ambient_c))
    alone = max(conductor_temperature_c(size, kind, amps, ambient_c) for _, size in wires)
    over = f"Too thin: its insulation bears {kind.limit_c:g} °C. " if hottest > kind.limit_c else ""
    line = (
        f"{over}{len(cores)} wires at {figures(amps)} A each: the hottest runs at {hottest:.0f} "
        f"°C, alone at {alone:.0f} °C, in {_in(kind, ambient_c)}."
    )
    working = (
        f"In air of {ambient_c:g} °C, all loaded at once, {kind.name}.",
        "Within 10 % of the grouping factors of IEC 60364-5-52 for wires alike.",
        CAUTION,
    )
    return Answer(line, working, {"hottest_c": hottest, "alone_c": alone})


def bundle(wires: list[tuple[int, float]]) -> Answer:
    """Return how thick wires are together. wires: how many of which outside diameter, mm.

    Raises QuantityError.
    """
    if not wires or any(count < 1 or mm <= 0 for count, mm in wires):
        raise QuantityError("Type how many of which size: 6x1 mm2 2x2.5 mm2.")
    _few_enough(sum(count for count, _ in wires))
    widths = [mm for count, mm in wires for _ in range(count)]
    number, across = len(widths), across_mm(widths)
    if len(set(widths)) == 1 and number in CIRCLE_RATIO:
        how = f"{number} equal circles: {CIRCLE_RATIO[number]:.3f} times as wide (Graham 1998)."
    else:
        square = math.sqrt(sum(mm * mm for mm in widths))
        how = f"{across / square:.2f} times the root of the sum of their squares (our choice)."
    line = (
        f"{number} wires: {across:.1f} mm across. Covering with a bore from {across * 1.1:.1f} mm."
    )
    return Answer(
        line, (how, "Without tape; 10 % more for the covering to go over."), {"across_mm": across}
    )


def lamp_resistor(supply_v: float, lamp_v: float, amps: float) -> Answer:
    """Return the resistor before a lamp or a light-emitting diode. Raises QuantityError."""
    _above(("Supply", supply_v), ("Lamp", lamp_v), ("Current", amps))
    if lamp_v >= supply_v:
        raise QuantityError(
            f"{supply_v:g} V do not feed a lamp of {lamp_v:g} V through a resistor."
        )
    ohm, watts = (supply_v - lamp_v) / amps, (supply_v - lamp_v) * amps
    line = f"{figures(ohm)} Ω, {figures(watts, 2)} W: {_rated(watts)}"
    working = (
        f"({supply_v:g} V - {lamp_v:g} V) / {figures(amps)} A.",
        "A vehicle reaches 14.4 V: count with that for a diode.",
    )
    return Answer(line, working, {"ohm": ohm, "watts": watts})


def power(ohm: float, volts: float | None = None, amps: float | None = None) -> Answer:
    """Return the power in a resistor, from its voltage or its current. Raises QuantityError."""
    _above(("Resistance", ohm))
    if volts is None and amps is None:
        raise QuantityError("Give the voltage across it or the current through it.")
    watts = volts**2 / ohm if volts is not None else (amps or 0.0) ** 2 * ohm
    line = f"{figures(watts)} W in {ohm:g} Ω; it gets hot: {_rated(watts)}"
    how = (
        f"{volts:g} V squared / {ohm:g} Ω."
        if volts is not None
        else f"{amps:g} A squared x {ohm:g} Ω."
    )
    return Answer(line, (how,), {"watts": watts})


def _way(length_m: float, return_too: bool) -> str:
    return f"{length_m:.4g} m there and as much back" if return_too else f"{length_m:.4g} m one way"


def _in(kind: Insulation, ambient_c: float) -> str:
    return f"{kind.code} ({kind.limit_c:g} °C) in air of {ambient_c:g} °C"


def _few_enough(count: int) -> None:
    if count > MOST_WIRES:
        raise QuantityError(f"{count:,} wires in one bundle are not likely; {MOST_WIRES} at most.")


def _either(metric: WireSize | None, awg: WireSize | None) -> str:
    return f"{metric or 'none in mm²'} or {awg or 'none in AWG'}"


def _above(*things: tuple[str, float]) -> None:
    for name, value in things:
        if not (math.isfinite(value) and value > 0):
            raise QuantityError(f"{name}: a figure above zero, not {value:g}.")


def _share(drop_share: float) -> None:
    if not 0 < drop_share < 1:
        raise QuantityError(
            f"Voltage drop: more than nothing and less than all, not {drop_share:.0%}."
        )


def _rated(watts: float) -> str:
    return f"take one of {figures(2 * watts, 2)} W or more."
