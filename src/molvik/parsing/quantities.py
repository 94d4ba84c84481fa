"""Read quantities the way people type them: "22 in", "0.62 m", "14 AWG", "35mm2", "0,5"."""

import math
import re
from functools import cache
from typing import TYPE_CHECKING, Literal

from molvik.model.parts import SizeSystem, WireSize
from molvik.wording import figures

if TYPE_CHECKING:
    from pint import UnitRegistry

LONGEST = 80
"""More letters than any quantity has."""

OPEN_WORDS = {"ol", "0l", "0.l", "o.l", "o/l", "open", "inf", "∞", "oo"}
_PAIR = re.compile(r"([-+]?(?:\d+\.?\d*|\.\d+))\s*([A-Za-z°²]*)")
_AWG_RANGE = range(-3, 41)


class QuantityError(ValueError):
    """A text that is not the quantity asked for; the message is for the user."""


@cache
def _units() -> "UnitRegistry[float]":
    """Load pint when the first unit is typed: it takes a noticeable time."""
    from pint import UnitRegistry

    return UnitRegistry()


def _tidy(text: str) -> str:
    text = text.strip().replace("Ω", "ohm").replace("µ", "u").replace("″", '"').replace("′", "'")
    if text.count(",") == 1 and "." not in text:
        text = text.replace(",", ".")
    return text.replace('"', " in ").replace("'", " ft ").strip()


def _read(text: str, unit: str, what: str, example: str) -> float:
    """Return a typed quantity in ``unit``; a bare number is taken to be in it already."""
    text = _short(text)
    tidy = _tidy(text)
    problem = QuantityError(f"“{text.strip()}” is not a {what}. Type for example {example}.")
    pairs = _PAIR.findall(tidy)
    if not pairs or _PAIR.sub("", tidy).strip():
        raise problem
    if len(pairs) == 1 and pairs[0][1] in ("", unit):
        total = float(pairs[0][0])
    else:
        if not all(name for _, name in pairs):
            raise problem
        try:
            units = _units()
            total = sum(units.Quantity(float(n), name).to(unit).magnitude for n, name in pairs)
        except Exception as error:  # pint raises many kinds for a name or dimension it rejects
            raise problem from error
    if not math.isfinite(total):
        raise problem
    return total


def _short(text: str) -> str:
    """Return a text that is short enough to be a quantity."""
    if len(text) > LONGEST:
        raise QuantityError(f"“{text[:30]}…” is longer than any number with its unit.")
    return text


def read_length_m(text: str) -> float:
    """Return a length in metres. A bare number is metres. Raises QuantityError."""
    length = _read(text, "m", "length", "0.62 m, 22 in or 4 ft 2 in")
    if not 0 < length <= 200:
        raise QuantityError(f"A length of {length:g} m is not likely. Type 0.62 m, 62 cm or 22 in.")
    return length


def read_mm(text: str) -> float:
    """Return a length in millimetres: a twist, a diameter, a distance on a plug. A bare number is
    millimetres. Raises QuantityError.
    """
    length = _read(text, "mm", "length", "30 mm, 3 cm or 1.2 in")
    if not 0 < length <= 200_000:
        raise QuantityError(f"A length of {length:g} mm is not likely. Type 30 mm or 1.2 in.")
    return length


def read_current_a(text: str) -> float:
    """Return a current in amperes. A bare number is amperes. Raises QuantityError."""
    current = _read(text, "A", "current", "7.5 A or 350 mA")
    if not 0 <= current <= 2000:
        raise QuantityError(f"{current:g} A is outside 0 to 2000 A.")
    return current


def read_surface_c(text: str) -> float:
    """Return the temperature of a hot surface, an exhaust's, deg C. Raises QuantityError."""
    return read_temperature_c(text, -50, 1200)


def read_temperature_c(text: str, least_c: float = -60, most_c: float = 300) -> float:
    """Return a temperature in degrees Celsius. A bare number is Celsius. Raises QuantityError."""
    tidy = re.sub(r"°|deg", "", text.strip())
    if tidy[-1:] in ("F", "f"):
        temperature = (_read(tidy[:-1], "", "temperature", "60 or 140 F") - 32) / 1.8
    else:
        temperature = _read(tidy.rstrip("Cc"), "", "temperature", "60 or 140 F")
    if not least_c <= temperature <= most_c:
        raise QuantityError(f"{temperature:g} °C is outside {least_c:g} to {most_c:g} °C.")
    return temperature


def read_duty_s(text: str) -> tuple[float, float]:
    """Return how long a load is on and off, s, from "15 s / 60 s" or "10 min on, 5 min off".

    Raises QuantityError.
    """
    text = _short(text)
    parts = [
        part for part in re.split(r"[/,;]| on ", re.sub(r"\boff\b|\bon\b *$", " ", text)) if part
    ]
    parts = [re.sub(r"\bon\b", " ", part).strip() for part in parts]
    if len(parts) != 2:
        raise QuantityError("Type how long it is on and how long off: 15 s / 60 s.")
    on_s, off_s = (_read(part, "s", "time", "15 s / 60 s") for part in parts)
    if not (0 < on_s <= 1e6 and 0 < off_s <= 1e6):
        raise QuantityError("Both times are above zero: 15 s / 60 s. Leave it empty for always on.")
    return on_s, off_s


def read_ohm(text: str) -> float | None:
    """Return a meter reading in ohms, None for an open circuit ("OL"). A bare number is ohms.

    Raises QuantityError.
    """
    if text.strip().lower() in OPEN_WORDS:
        return None
    if re.fullmatch(r"\s*[-+]?\d*[.,]?\d+\s*[kKM]\s*", text):
        text = f"{text.strip()}ohm".replace("K", "k")  # as a meter shows it: 1.2k
    value = _read(text, "ohm", "reading", "0.3, 450 mohm, or OL for open")
    if value < 0:
        raise QuantityError("A resistance cannot be below zero. Zero the meter and measure again.")
    return value


def read_volts(text: str, bare: Literal["V", "mV"] = "V") -> float | None:
    """Return a voltage, V, None for an overload ("OL"). bare: what a number without a unit means.

    Raises QuantityError.
    """
    if text.strip().lower() in OPEN_WORDS:
        return None
    times = 1e-3 if bare == "mV" and re.fullmatch(r"\s*[-+]?\d*[.,]?\d+\s*", text) else 1.0
    return _read(text, "V", "voltage", "0.62, 12.4 V or 35 mV") * times


def read_force_n(text: str) -> float:
    """Return a force in newtons. A bare number is newtons. Raises QuantityError."""
    force = _read(text, "N", "force", "120, 27 lbf or 12 kgf")
    if not 0 < force <= 20_000:
        raise QuantityError(f"{force:g} N is outside 0 to 20000 N.")
    return force


BareSize = Literal["", "awg", "metric"]


def read_size(text: str, bare: BareSize = "") -> WireSize:
    """Return a wire size from "14 AWG", "AWG 14", "4/0", "2.5 mm2", "0,75 mm²".

    bare: what a number without a unit means. Without it a fraction is mm2, which AWG has not, and
    a whole number is refused, because 10 and 16 are sizes in both systems. Raises QuantityError.
    """
    text = _short(text)
    tidy = text.strip().replace("²", "2").replace(",", ".").lower()
    aught = re.fullmatch(r"(?:awg)?\s*([1-4])/0\s*(?:awg|ga|gauge)?", tidy)
    if aught:
        return WireSize("awg", 1.0 - int(aught.group(1)))
    gauge = re.fullmatch(r"(?:awg|#)\s*(\d+)|(\d+)\s*(?:awg|ga|gauge|g)", tidy)
    if gauge:
        return _size("awg", float(gauge.group(1) or gauge.group(2)), text)
    metric = re.fullmatch(r"(\d*\.?\d+)\s*(?:mm2|mm\^2|sq\.? ?mm|mm)", tidy)
    if metric:
        return _size("metric", float(metric.group(1)), text)
    number = re.fullmatch(r"\d*\.?\d+", tidy)
    if number and bare:
        return _size(bare, float(tidy), text)
    if number and "." in tidy:
        return _size("metric", float(tidy), text)  # AWG has no fractions
    if number:
        raise QuantityError(f"Size “{text.strip()}” has no unit. Type {tidy} AWG or {tidy} mm2.")
    raise QuantityError(f"“{text.strip()}” is not a wire size. Type 0.75 mm2 or 18 AWG.")


def _size(system: SizeSystem, value: float, text: str) -> WireSize:
    if system == "awg" and (value != int(value) or int(value) not in _AWG_RANGE):
        raise QuantityError(f"“{text.strip()}” is not an AWG size (4/0 to 40).")
    if system == "metric" and not 0.01 <= value <= 300:
        raise QuantityError(f"{value:g} mm² is outside 0.01 to 300 mm².")
    return WireSize(system, value)


def seconds_text(seconds: float) -> str:
    """Return a time as people say it: 0.15 s, 50 s, 10 min, 2.5 h."""
    for unit_s, unit in ((3600.0, "h"), (60.0, "min")):
        if seconds >= 2 * unit_s:
            return (
                f"{figures(seconds / unit_s, 2)} {unit}"
                if seconds < 99 * unit_s
                else (f"{seconds / unit_s:.0f} {unit}")
            )
    return f"{figures(seconds, 2)} s" if seconds < 99 else f"{seconds:.0f} s"


def amps_text(value: float) -> str:
    """Write a current in the unit of its size: "12 A", "5.3 mA", "40 µA"."""
    size = abs(value)
    if size >= 0.1 or size == 0:
        return f"{figures(value)} A"
    return f"{figures(value * 1000)} mA" if size >= 1e-4 else f"{figures(value * 1e6)} µA"


def ohm_text(value: float) -> str:
    """Write a resistance in three figures: "0.214 Ω", "1.9 Ω", "12.4 Ω", never less than a
    milliohm.
    """
    return f"{figures(round(value, 3))} Ω"
