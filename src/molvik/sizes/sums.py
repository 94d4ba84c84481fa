"""Quick sums: one question, one line of answer, the working on demand. No job is needed.

``quick`` reads a line as people type it: "14 awg 5 m 12 A", "12 A 5 m 3 %", "fuse 1.5 mm2 8 A".
"""

import math
import re
from typing import NamedTuple

from molvik.electrical.bundle import Core, bundle_temperatures_c
from molvik.electrical.conductor import (
    area_mm2,
    equivalence_text,
    resistance_20_ohm_per_m,
    resistance_ohm_per_m,
)
from molvik.electrical.fusing import choose_fuse, largest_protecting_a, smallest_carrying_a
from molvik.electrical.heat import (
    conductor_temperature_c,
    current_for_temperature_a,
    outside_diameter_mm,
)
from molvik.model.parts import WireSize
from molvik.quantities import (
    QuantityError,
    read_current_a,
    read_length_m,
    read_ohm,
    read_size,
    read_temperature_c,
)
from molvik.reference.bundles import CIRCLE_RATIO, MIXED_FILL, across_mm
from molvik.reference.copper import AWG_SIZES, METRIC_SIZES
from molvik.reference.fuses import LOAD_FACTOR
from molvik.reference.insulation import Insulation, insulation
from molvik.reference.limits import HEAT_MARGIN_K, LEAST_MM2

CAUTION = (
    "One wire alone in still air. Battery off first, fuse at the source; local rules come first."
)

USUAL = insulation("C125")
AMBIENT_C = 60.0
STARTER_DROP = 0.02


class Answer(NamedTuple):
    """line: the answer. working: how it came about. values: the figures, by name with unit."""

    line: str
    working: tuple[str, ...]
    values: dict[str, float | str | None]


def wire(
    amps: float, length_m: float, volts: float = 12.0, drop_share: float = 0.03,
    ambient_c: float = AMBIENT_C, kind: Insulation = USUAL, return_too: bool = False,
) -> Answer:  # fmt: skip
    """Return the smallest wire for a current over a length: drop, heat and strength.

    drop_share: of the voltage, over this wire; with ``return_too`` over a return as long as well.
    """
    _above(("Current", amps), ("Length", length_m), ("Voltage", volts), ("Drop", drop_share))
    ways = 2 if return_too else 1
    found: list[WireSize | None] = []
    working = [f"May lose {drop_share * volts:.2f} V, {drop_share:.1%} of {volts:g} V, over "
               f"{length_m * ways:g} m{' there and back' if return_too else ''}."]  # fmt: skip
    for sizes in (METRIC_SIZES, AWG_SIZES):
        best = None
        for size in sizes:
            lost = amps * length_m * ways * resistance_ohm_per_m(size, kind.limit_c)
            hot = current_for_temperature_a(size, kind, kind.limit_c - HEAT_MARGIN_K, ambient_c)
            if lost <= drop_share * volts and amps <= hot and area_mm2(size) >= 0.95 * LEAST_MM2:
                best = size
                working.append(
                    f"{size}: loses {lost:.3f} V hot, carries {hot:.1f} A at {ambient_c:g} °C in "
                    f"{kind.name} with {HEAT_MARGIN_K:g} K in hand."
                )
                break
        found.append(best)
    metric, awg = found
    if metric is None and awg is None:
        line = (
            f"No standard size carries {amps:g} A over {length_m:g} m so. Shorten it or share it."
        )
    else:
        line = f"{_either(metric, awg)} for {amps:g} A over {length_m:g} m."
    working.append(CAUTION)
    return Answer(line, tuple(working), {"metric": str(metric) if metric else None,
                                         "awg": str(awg) if awg else None})  # fmt: skip


def drop(size: WireSize, length_m: float, amps: float, volts: float = 12.0) -> Answer:
    """Return what a wire loses, cold and as warm as it gets."""
    _above(("Length", length_m), ("Current", amps), ("Voltage", volts))
    hot_c = conductor_temperature_c(size, USUAL, amps, AMBIENT_C)
    cold = amps * length_m * resistance_20_ohm_per_m(size)
    warm = amps * length_m * resistance_ohm_per_m(size, hot_c)
    over = " Above what its insulation stands." if hot_c > USUAL.limit_c else ""
    line = (
        f"{size}, {length_m:.4g} m at {amps:g} A loses {warm:.3f} V, {warm / volts:.1%} of "
        f"{volts:g} V, and runs at {hot_c:.0f} °C.{over}"
    )
    working = (
        f"{resistance_20_ohm_per_m(size) * 1000:.2f} mΩ/m at 20 °C: {cold:.3f} V cold.",
        f"Warm, {hot_c:.0f} °C in air of {AMBIENT_C:g} °C: {warm:.3f} V.",
        "That is one wire: a return as long loses as much again.",
        CAUTION,
    )
    return Answer(line, working, {"drop_v": warm, "share": warm / volts, "temperature_c": hot_c})


def resistance(size: WireSize, length_m: float) -> Answer:
    """Return the resistance of a length at 20 deg C."""
    _above(("Length", length_m))
    ohm = resistance_20_ohm_per_m(size) * length_m
    line = f"{size}, {length_m:g} m: {ohm * 1000:.2f} mΩ at 20 °C."
    working = (f"{resistance_20_ohm_per_m(size) * 1000:.3f} mΩ/m; 0.39 % more for each kelvin.",)
    return Answer(line, working, {"ohm": ohm})


def gauge(size: WireSize) -> Answer:
    """Return how a size stands in the other system."""
    working = (
        f"{area_mm2(size):.3f} mm² of copper, {outside_diameter_mm(size, USUAL):.2f} mm over thin "
        "insulation.",
    )
    return Answer(equivalence_text(size), working, {"area_mm2": area_mm2(size)})


def fuse(size: WireSize, amps: float, ambient_c: float = AMBIENT_C) -> Answer:
    """Return the fuse for a wire and its load."""
    _above(("Current", amps))
    chosen = choose_fuse(size, USUAL, ambient_c, amps)
    wanted = smallest_carrying_a(amps, "blade")
    most = largest_protecting_a(size, USUAL, ambient_c, "blade")
    working = (
        f"{amps:g} A is {LOAD_FACTOR:.0%} of {amps / LOAD_FACTOR:.1f} A: the smallest blade fuse "
        f"is {f'{wanted:g} A' if wanted else 'none'}.",
        f"{size} is protected by a blade fuse of at most {most:.1f} A, at its slowest.",
        "A motor's inrush and the fuse before it are not judged here.",
        CAUTION,
    )
    if chosen is None:
        line = f"No fuse carries {amps:g} A and protects {size}: take a thicker wire."
        return Answer(line, working, {"kind": None, "rating_a": None})
    kind, rating = chosen
    return Answer(f"{rating:g} A {kind} for {size} at {amps:g} A.", working,
                  {"kind": kind, "rating_a": rating})  # fmt: skip


def battery_cable(amps: float, length_m: float, volts: float = 12.0) -> Answer:
    """Return the cable for a starter: by drop; cranking is too short to heat it."""
    _above(("Current", amps), ("Length", length_m), ("Voltage", volts))
    may = STARTER_DROP * volts
    found = []
    for sizes in (METRIC_SIZES, AWG_SIZES):
        fits = [s for s in sizes if amps * length_m * resistance_20_ohm_per_m(s) <= may]
        found.append(fits[0] if fits else None)
    metric, awg = found
    line = f"{_either(metric, awg)} for {amps:g} A over {length_m:g} m."
    working = (
        f"May lose {may:.2f} V while cranking, {STARTER_DROP:.0%} of {volts:g} V (our choice: half "
        "of the half volt that is common practice for both cables).",
        "The earth cable is as thick.",
    )
    return Answer(line, working, {"metric": str(metric) if metric else None,
                                  "awg": str(awg) if awg else None})  # fmt: skip


def twist(length_m: float, lay_mm: float, wire_mm: float) -> Answer:
    """Return how much longer the cores of a twisted pair are cut.

    A core runs along a helix whose diameter is the wire's own: sqrt(lay^2 + (pi d)^2) a turn.
    """
    _above(("Length", length_m), ("Lay", lay_mm), ("Diameter", wire_mm))
    share = math.hypot(lay_mm, math.pi * wire_mm) / lay_mm
    line = f"Cut each core {length_m * share:.3f} m for {length_m:g} m: {share - 1:.1%} more."
    working = (f"{1000 / lay_mm:.0f} turns a metre; a core runs {share:.4f} times the length.",)
    return Answer(line, working, {"length_m": length_m * share, "share": share})


def bundle_heat(
    wires: list[tuple[int, WireSize]], amps: float, ambient_c: float = AMBIENT_C
) -> Answer:
    """Return how hot the hottest wire of a bundle gets with the same current in each."""
    _above(("Current", amps))
    cores = [Core(size, USUAL, amps) for count, size in wires for _ in range(count)]
    hottest = max(bundle_temperatures_c(cores, ambient_c))
    alone = max(conductor_temperature_c(size, USUAL, amps, ambient_c) for _, size in wires)
    over = " Above what its insulation stands." if hottest > USUAL.limit_c else ""
    line = (
        f"{len(cores)} wires at {amps:g} A each: the hottest runs at {hottest:.0f} °C, alone at "
        f"{alone:.0f} °C.{over}"
    )
    working = (
        f"In air of {ambient_c:g} °C, all loaded at once, {USUAL.name}.",
        "Within 10 % of the grouping factors of IEC 60364-5-52 for wires alike.",
        CAUTION,
    )
    return Answer(line, working, {"hottest_c": hottest, "alone_c": alone})


def bundle(wires: list[tuple[int, float]]) -> Answer:
    """Return how thick wires are together. wires: how many of which outside diameter, mm."""
    if not wires or any(count < 1 or mm <= 0 for count, mm in wires):
        raise QuantityError("Type how many of which size: 6x1 mm2 2x2.5 mm2.")
    widths = [mm for count, mm in wires for _ in range(count)]
    number, across = len(widths), across_mm(widths)
    if len(set(widths)) == 1 and number in CIRCLE_RATIO:
        how = f"{number} equal circles: {CIRCLE_RATIO[number]:.3f} times as wide (Graham 1998)."
    else:
        how = f"At most {MIXED_FILL:g} times the root of the sum of squares (our choice)."
    line = (
        f"{number} wires: {across:.1f} mm across. Covering with a bore from {across * 1.1:.1f} mm."
    )
    return Answer(line, (how, "Without tape; 10 % more for the covering to go over."),
                  {"across_mm": across})  # fmt: skip


def lamp_resistor(supply_v: float, lamp_v: float, amps: float) -> Answer:
    """Return the resistor before a lamp or a light-emitting diode."""
    _above(("Supply", supply_v), ("Lamp", lamp_v), ("Current", amps))
    if lamp_v >= supply_v:
        raise QuantityError(
            f"{supply_v:g} V do not feed a lamp of {lamp_v:g} V through a resistor."
        )
    ohm, watts = (supply_v - lamp_v) / amps, (supply_v - lamp_v) * amps
    line = f"{ohm:.3g} Ω, {watts:.2g} W: take one of {2 * watts:.2g} W or more."
    working = (f"({supply_v:g} V - {lamp_v:g} V) / {amps:g} A.", "A vehicle reaches 14.4 V: count "
               "with that for a diode.")  # fmt: skip
    return Answer(line, working, {"ohm": ohm, "watts": watts})


def power(ohm: float, volts: float | None = None, amps: float | None = None) -> Answer:
    """Return the power in a resistor, from its voltage or its current."""
    _above(("Resistance", ohm))
    if volts is None and amps is None:
        raise QuantityError("Give the voltage across it or the current through it.")
    watts = volts**2 / ohm if volts is not None else (amps or 0.0) ** 2 * ohm
    line = f"{watts:.3g} W in {ohm:g} Ω; it gets hot: take one of {2 * watts:.2g} W or more."
    how = (
        f"{volts:g} V squared / {ohm:g} Ω."
        if volts is not None
        else f"{amps:g} A squared x {ohm:g} Ω."
    )
    return Answer(line, (how,), {"watts": watts})


def _either(metric: WireSize | None, awg: WireSize | None) -> str:
    return f"{metric or 'none in mm²'} or {awg or 'none in AWG'}"


def _above(*things: tuple[str, float]) -> None:
    for name, value in things:
        if not (math.isfinite(value) and value > 0):
            raise QuantityError(f"{name}: a figure above zero, not {value:g}.")


# One line.

_TOKEN = re.compile(
    r"(?P<count>\d+)\s*[x×]\s*|(?P<number>[-+]?\d*[.,]?\d+(?:/0)?)\s*"
    r"(?P<unit>mm2|mm²|mm\^2|awg|ga|mohm|kohm|ohm|Ω|mA|A|mV|V|W|mm|cm|m|ft|in|\"|'|%|°C|C|F)?"
    r"(?![A-Za-z])|(?P<awg>awg)\s*(?P<gauge>\d(?:/0)?\d*)|(?P<word>[A-Za-z]+)",
    re.IGNORECASE,
)

VERBS = ("wire", "drop", "fuse", "cable", "bundle", "twist", "resistor", "power", "gauge")
HELP = (
    "14 awg 5 m 12 A · 12 A 5 m 3 % · fuse 1.5 mm2 8 A · cable 180 A 1.5 m · bundle 6x1 mm2 "
    "2x2.5 mm2 · twist 2 m 30 mm 2.1 mm · resistor 12 V 2 V 20 mA · power 560 ohm 12 V"
)


class _Said(NamedTuple):
    """What stands in a line, by its kind."""

    verb: str
    sizes: list[tuple[int, WireSize]]
    lengths: list[tuple[str, float]]
    amps: list[float]
    volts: list[float]
    ohms: list[float]
    shares: list[float]
    air: list[float]


def quick(text: str) -> Answer | None:
    """Return the answer to a line, None when it is no sum; QuantityError for a wrong one."""
    said = _read(text)
    if said is None:
        return None
    volts = said.volts[0] if said.volts else 12.0
    air = said.air[0] if said.air else AMBIENT_C
    length = next((m for _, m in said.lengths), None)
    amps = said.amps[0] if said.amps else None
    size = said.sizes[0][1] if said.sizes else None
    match said.verb:
        case "bundle" if said.sizes and amps is not None:
            return bundle_heat(said.sizes, amps, air)
        case "bundle":
            return bundle([(n, outside_diameter_mm(s, USUAL)) for n, s in said.sizes]
                          or [(1, mm * 1000) for _, mm in said.lengths])  # fmt: skip
        case "twist" if len(said.lengths) >= 2:
            wide = said.lengths[2][1] * 1000 if len(said.lengths) > 2 else (
                outside_diameter_mm(size, USUAL) if size else 2.0
            )  # fmt: skip
            return twist(said.lengths[0][1], said.lengths[1][1] * 1000, wide)
        case "resistor" if len(said.volts) >= 2 and amps is not None:
            return lamp_resistor(max(said.volts), min(said.volts), amps)
        case "power" if said.ohms:
            return power(said.ohms[0], said.volts[0] if said.volts else None, amps)
        case "cable" if amps is not None and length:
            return battery_cable(amps, length, volts)
        case "fuse" if size and amps is not None:
            return fuse(size, amps, air)
        case "gauge" if size:
            return gauge(size)
        case "" | "wire" | "drop":
            if size and length and amps is not None:
                return drop(size, length, amps, volts)
            if size and length:
                return resistance(size, length)
            if amps is not None and length:
                return wire(amps, length, volts, said.shares[0] if said.shares else 0.03, air)
            return gauge(size) if size and not (said.lengths or said.amps) else None
        case _:
            raise QuantityError(f"“{text.strip()}” lacks something. Type for example: {HELP}.")


def _read(text: str) -> _Said | None:
    """Sort what stands in a line; None when there is something else in it."""
    said = _Said("", [], [], [], [], [], [], [])
    verb, count, end = "", 1, 0
    for found in _TOKEN.finditer(text):
        if text[end : found.start()].strip(" ,;"):
            return None
        end = found.end()
        if found["word"]:
            if found["word"].lower() in VERBS and not verb:
                verb = found["word"].lower()
                continue
            return None
        if found["count"]:
            count = int(found["count"])
            continue
        if found["awg"]:
            said.sizes.append((count, read_size(f"{found['gauge']} awg")))
        else:
            unit = found["unit"] or ""
            if not unit:
                return None
            _sort(said, found["number"], unit, count)
        count = 1
    if text[end:].strip(" ,;") or not end:
        return None
    if not any(said[1:]):
        return None
    return said._replace(verb=verb)


def _sort(said: _Said, number: str, unit: str, count: int) -> None:
    text = f"{number} {unit}"
    match unit.lower():
        case "mm2" | "mm²" | "mm^2" | "awg" | "ga":
            said.sizes.append((count, read_size(text)))
        case "a" | "ma":
            said.amps.append(read_current_a(text.replace(" ma", " mA")))
        case "v" | "mv":
            said.volts.append(_number(number) / (1000 if unit.lower() == "mv" else 1))
        case "ohm" | "mohm" | "kohm" | "ω":
            said.ohms.append(read_ohm(text) or 0.0)
        case "%":
            said.shares.append(_number(number) / 100)
        case "c" | "°c" | "f":
            said.air.append(read_temperature_c(text))
        case "w":
            raise QuantityError("Say the current instead of the power: 12 A.")
        case _:
            said.lengths.append((text, read_length_m(text)))


def _number(text: str) -> float:
    return float(text.replace(",", "."))
