"""Trouble codes of an engine computer: which circuit each is of, and which stay when a thing is
left out on purpose.

The numbers are those of SAE J2012 (ISO 15031-6), from memory; the words are ours. P0, P2, P34 to
P39 and U0 are the standard's, P1 and the rest a maker's own.
"""

import re
from typing import NamedTuple

CODE = re.compile(r"[PCBU][0-3][0-9A-F]{3}")


class CircuitCodes(NamedTuple):
    """What is set when a circuit shows too little, too much, or nothing at all. numbered: codes go
    on from the one for the first: injector 3, coil B.
    """

    low: str = ""
    high: str = ""
    none: str = ""
    numbered: bool = False


CIRCUITS: dict[str, CircuitCodes] = {
    "coolant": CircuitCodes("P0117", "P0118"),
    "intake air": CircuitCodes("P0112", "P0113"),
    "throttle": CircuitCodes("P0122", "P0123"),
    "pedal": CircuitCodes("P2122", "P2123"),
    "manifold pressure": CircuitCodes("P0107", "P0108"),
    "air mass": CircuitCodes("P0102", "P0103"),
    "fuel level": CircuitCodes("P0462", "P0463"),
    "oil pressure sensor": CircuitCodes("P0522", "P0523"),
    "crank": CircuitCodes(none="P0335"),
    "cam": CircuitCodes(none="P0340"),
    "knock": CircuitCodes(none="P0325"),
    "road speed": CircuitCodes(none="P0500"),
    "oxygen": CircuitCodes(none="P0134"),
    "oxygen heater": CircuitCodes(none="P0135"),
    "injector": CircuitCodes(none="P0201", numbered=True),
    "coil": CircuitCodes(none="P0351", numbered=True),
    "fan relay": CircuitCodes(none="P0480", numbered=True),
    "pump relay": CircuitCodes(none="P0230"),
    "main relay": CircuitCodes(none="P0685"),
    "idle": CircuitCodes(none="P0511"),
    "purge": CircuitCodes(none="P0443"),
    "check lamp": CircuitCodes(none="P0650"),
    "tachometer": CircuitCodes(none="P0654"),
}
"""By what a circuit is of, in the words of ``reference.synonyms``."""

SUPPLY = CircuitCodes("P0562", "P0563")
"""Of the computer's own supply."""


class LeftOutThing(NamedTuple):
    """A thing that conversions leave out. says: words that tell it in a pinout, in any of these
    sets; codes: that stay, single ones and ranges; why: they are harmless, or how far; sets: the
    codes of them that come first.
    """

    name: str
    says: tuple[tuple[str, ...], ...]
    codes: tuple[str, ...]
    why: str
    sets: tuple[str, ...] = ()


EMISSIONS = " Whether the vehicle may go without it is for local rules."

LEFT_OUT: dict[str, LeftOutThing] = {
    thing.name: thing
    for thing in (
        LeftOutThing(
            "rear oxygen sensors",
            (("oxygen", "probe2"), ("oxygen", "rear"), ("oxygen", "post"), ("oxygen", "2")),
            ("P0036-P0038", "P0056-P0058", "P0136-P0141", "P0156-P0161"),
            "They watch the catalyst; the mixture is set by the front one." + EMISSIONS,
            ("P0141",)),
        LeftOutThing(
            "catalyst", (("catalyst",),), ("P0420-P0439",),
            "It is judged by the rear oxygen sensors; the engine runs the same." + EMISSIONS),
        LeftOutThing(
            "automatic gearbox", (("gearbox",),), ("P0700-P0799", "U0101"),
            "There is no gearbox computer to answer; the engine runs without it.", ("P0700",)),
        LeftOutThing(
            "purge valve", (("purge",),), ("P0440-P0449", "P0496-P0497"),
            "Only fumes of the tank go through it: close its hose off, let the tank breathe." +
            EMISSIONS, ("P0443",)),
        LeftOutThing(
            "tank pressure sensor", (("tank", "pressure"),), ("P0450-P0459",),
            "It looks for leaks of the tank; the engine does not ask it." + EMISSIONS, ("P0452",)),
        LeftOutThing(
            "secondary air", (("secondary", "air"), ("air", "pump relay")), ("P0410-P0419",),
            "It warms the catalyst after a cold start." + EMISSIONS, ("P0412",)),
        LeftOutThing(
            "exhaust gas recirculation", (("egr",),), ("P0400-P0409",),
            "Closed off, the engine runs without it." + EMISSIONS, ("P0403",)),
        LeftOutThing(
            "road speed sensor", (("road speed",),), ("P0500-P0503",),
            "The engine runs; idle while it rolls, and a speed limit, may act otherwise.",
            ("P0500",)),
        LeftOutThing(
            "air conditioning", (("air conditioning",),), ("P0530-P0534", "P0645-P0648"),
            "Nothing asks for it; the idle is not raised for it.", ("P0645",)),
        LeftOutThing(
            "cruise control", (("cruise",),), ("P0564-P0570", "P0574-P0580"),
            "It only holds a speed."),
        LeftOutThing(
            "power steering switch", (("steering",),), ("P0550-P0554",),
            "It raises the idle while the wheel is turned at rest.", ("P0551",)),
        LeftOutThing(
            "brake switch", (("brake switch",),), ("P0504", "P0571-P0573", "P0703"),
            "It ends cruise control; with a throttle by wire it may limit power.", ("P0571",)),
        LeftOutThing(
            "clutch switch", (("clutch switch",),), ("P0704", "P0830-P0833"),
            "It softens the idle when the clutch is trodden.", ("P0704",)),
        LeftOutThing(
            "tank level to the computer", (("fuel level",),), ("P0460-P0464",),
            "It is only told on; the gauge has its own sender.", ("P0462",)),
        LeftOutThing(
            "fans by the computer", (("fan",), ("fan relay",)), ("P0480-P0485",),
            "They are switched otherwise: see that they are.", ("P0480",)),
        LeftOutThing(
            "outside air sensor", (("ambient",), ("outside", "air")), ("P0070-P0074",),
            "It is for the display and the air conditioning.", ("P0072",)),
        LeftOutThing("brake computer", (), ("U0121", "U0415"),
                     "It is not there to speak; the engine runs without it.", ("U0121",)),
        LeftOutThing("body computer", (), ("U0140", "U0422"),
                     "It is not there to speak; see that it was not what unlocks the start.",
                     ("U0140",)),
        LeftOutThing("instrument cluster on the network", (), ("U0155", "U0423"),
                     "Gauges are fed otherwise; the engine runs without it.", ("U0155",)),
        LeftOutThing("airbag computer", (), ("U0151",),
                     "It is not there to speak. Restraints are for those licensed for them.",
                     ("U0151",)),
    )
}  # fmt: skip

FAMILIES: tuple[tuple[str, str], ...] = (
    ("P0300-P0312", "misfire: pull one cylinder at a time; plug, coil, injector, compression"),
    ("P0171-P0175", "mixture too lean or too rich: leaks of air first, then fuel pressure"),
    ("P0600-P0606", "the computer itself: its supply and earths first"),
    ("P0610-P0615", "the computer's setting, or its starter relay"),
    ("P0620-P0625", "the alternator's lamp or field"),
    ("P0560-P0563", "the computer's supply: battery, charging, its feeds and earths"),
    ("P0010-P0029", "camshaft adjusting: its valve, its wires, the oil"),
    ("P0100-P0104", "air mass"),
    ("P0105-P0109", "manifold pressure"),
    ("P0110-P0114", "intake air temperature"),
    ("P0115-P0119", "coolant temperature"),
    ("P0120-P0124", "throttle position"),
    ("P0125-P0128", "coolant that stays too cold: thermostat, sensor"),
    ("P0130-P0135", "front oxygen sensor, or its heater"),
    ("P0150-P0155", "front oxygen sensor of the second bank, or its heater"),
    ("P0200-P0212", "an injector's circuit"),
    ("P0230-P0233", "fuel pump: relay, its coil, its feed"),
    ("P0320-P0323", "engine speed"),
    ("P0325-P0334", "knock sensor"),
    ("P0335-P0339", "crank sensor: gap, polarity, screen, wires"),
    ("P0340-P0344", "cam sensor"),
    ("P0350-P0362", "a coil's circuit"),
    ("P0505-P0511", "idle valve"),
    ("P0520-P0524", "oil pressure"),
    ("P0650-P0654", "a lamp or gauge that the computer drives"),
    ("P0685-P0690", "main relay: its coil, its contact, its feed"),
    ("U0001-U0029", "the network itself: wires, terminators, who speaks"),
    ("U0100-U0300", "another computer does not speak"),
)
"""What codes are about where the job does not say more."""


def within(code: str, spans: tuple[str, ...]) -> bool:
    """Return whether a code is one of some, or lies in one of their ranges."""
    for span in spans:
        first, _, last = span.partition("-")
        if code[:1] == first[:1] and first <= code <= (last or first):
            return True
    return False


def is_standard(code: str) -> bool:
    """Return whether a code means the same for every maker (SAE J2012, from memory)."""
    return code[:2] in ("P0", "P2", "U0", "B0", "C0") or "P3400" <= code <= "P3999"
