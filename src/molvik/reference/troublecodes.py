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


EMISSIONS = " Removing it may be illegal on the road: check local law."

LEFT_OUT: dict[str, LeftOutThing] = {
    thing.name: thing
    for thing in (
        LeftOutThing(
            "rear oxygen sensors",
            (("oxygen", "probe2"), ("oxygen", "after")),
            ("P0036-P0038", "P0054", "P0056-P0058", "P0060", "P0136-P0141", "P0156-P0161"),
            "They monitor the catalyst and, on many engines, trim the mixture slightly. Check the "
            "fuel trims." + EMISSIONS,
            ("P0141",),
        ),
        LeftOutThing(
            "catalyst",
            (("catalyst",),),
            ("P0420-P0439",),
            "It is judged by the rear oxygen sensors; the mixture does not depend on it."
            + EMISSIONS,
        ),
        LeftOutThing(
            "automatic gearbox",
            (("gearbox",),),
            ("P0700-P0702", "P0705-P0718", "P0720-P0723", "P0729-P0799", "U0101", "U0402"),
            "No transmission module answers. Check that start inhibit, idle and torque limits do "
            "not need it.",
            ("P0700",),
        ),
        LeftOutThing(
            "purge valve",
            (("purge",),),
            ("P0440-P0445", "P0455-P0459", "P0496-P0497"),
            "Only vapour of the tank goes through it: close its hose off, let the tank breathe."
            + EMISSIONS,
            ("P0443",),
        ),
        LeftOutThing(
            "tank vent valve",
            (("vent", "purge"), ("vent", "tank"), ("vent", "tank", "valve")),
            ("P0446-P0449", "P0498-P0499"),
            "It closes the tank off for the leak test; without it the tank must still breathe."
            + EMISSIONS,
            ("P0446",),
        ),
        LeftOutThing(
            "tank pressure sensor",
            (("tank", "pressure"),),
            ("P0450-P0454",),
            "It looks for leaks of the tank; the engine does not use it." + EMISSIONS,
            ("P0452",),
        ),
        LeftOutThing(
            "secondary air",
            (("secondary", "air"), ("air", "pump relay")),
            ("P0410-P0419", "P0491-P0492"),
            "It warms the catalyst after a cold start." + EMISSIONS,
            ("P0412",),
        ),
        LeftOutThing(
            "exhaust gas recirculation",
            (("egr",),),
            ("P0400-P0409", "P0486-P0490"),
            "Blanked off, most engines run without it. Check for knock, and for a map that expects "
            "it." + EMISSIONS,
            ("P0403",),
        ),
        LeftOutThing(
            "road speed sensor",
            (("road speed",),),
            ("P0500-P0503",),
            "Most engines run without it. Check the idle while rolling, and a speed or power limit "
            "that needs it.",
            ("P0500",),
        ),
        LeftOutThing(
            "air conditioning",
            (("air conditioning",),),
            ("P0530-P0539", "P0645-P0647"),
            "Nothing asks for it; the idle is not raised for it.",
            ("P0645",),
        ),
        LeftOutThing(
            "cruise control",
            (("cruise",),),
            ("P0564-P0570", "P0574-P0581"),
            "It only holds a speed. The brake switch is another matter: it stays.",
        ),
        LeftOutThing(
            "power steering switch",
            (("steering",),),
            ("P0550-P0554",),
            "It raises the idle while the wheel is turned at rest.",
            ("P0551",),
        ),
        LeftOutThing(
            "brake switch",
            (("brake switch",),),
            ("P0504", "P0571-P0573", "P0703", "P0719", "P0724"),
            "It ends cruise control; with a throttle by wire it may limit power. Check both.",
            ("P0571",),
        ),
        LeftOutThing(
            "clutch switch",
            (("clutch switch",),),
            ("P0704", "P0830-P0835"),
            "Cruise and idle control use it. On some vehicles the starter is blocked until it "
            "closes: check.",
            ("P0704",),
        ),
        LeftOutThing(
            "tank level to the computer",
            (("fuel level",),),
            ("P0460-P0464",),
            "The engine does not need it. Check that the fuel gauge is not fed by this signal.",
            ("P0462",),
        ),
        LeftOutThing(
            "fans by the computer",
            (("fan",), ("fan relay",)),
            ("P0480-P0485", "P0691-P0696"),
            "They are switched otherwise: see that they are.",
            ("P0480",),
        ),
        LeftOutThing(
            "outside air sensor",
            (("ambient",), ("outside", "air")),
            ("P0070-P0074",),
            "Mostly for display and air conditioning; some engines use it in their models. Check.",
            ("P0072",),
        ),
        LeftOutThing(
            "brake computer",
            (),
            ("U0121", "U0415"),
            "Brake module missing. Check that nothing else waits for its road speed.",
            ("U0121",),
        ),
        LeftOutThing(
            "body computer",
            (),
            ("U0140", "U0422"),
            "Module missing. Check that it did not release the immobiliser or the starter.",
            ("U0140",),
        ),
        LeftOutThing(
            "instrument cluster on the network",
            (),
            ("U0155", "U0423"),
            "Gauges are fed otherwise. Check that it did not hold the immobiliser.",
            ("U0155",),
        ),
        LeftOutThing(
            "airbag computer",
            (),
            ("U0151",),
            "Airbag module missing. Do not work on airbags unless you are authorised to.",
            ("U0151",),
        ),
    )
}
"""What each says is never more than is known: what to check where something else may depend on it.
Codes of a brake or clutch switch lie among those of the gearbox, and one of the immobiliser among
those of the air conditioning: they stay out.
"""

FAMILIES: tuple[tuple[str, str], ...] = (
    ("P0010-P0015", "camshaft adjusting, first bank: its valve, its wires, the oil"),
    (
        "P0016-P0019",
        "crank and cam do not agree: check the timing chain or belt first, then the sensors",
    ),
    ("P0020-P0025", "camshaft adjusting, second bank: its valve, its wires, the oil"),
    ("P0030-P0032", "heater of the front oxygen sensor"),
    ("P0036-P0038", "heater of the rear oxygen sensor"),
    ("P0050-P0052", "heater of the front oxygen sensor of the second bank"),
    ("P0056-P0058", "heater of the rear oxygen sensor of the second bank"),
    ("P0068-P0069", "air mass, manifold pressure and throttle do not agree: leaks of air first"),
    ("P0070-P0074", "outside air temperature"),
    ("P0087-P0088", "fuel pressure in the rail"),
    ("P0100-P0104", "air mass"),
    ("P0105-P0109", "manifold pressure"),
    ("P0110-P0114", "intake air temperature"),
    ("P0115-P0119", "coolant temperature"),
    ("P0120-P0124", "throttle position"),
    ("P0125-P0126", "coolant that stays too cold: thermostat, sensor"),
    ("P0127", "intake air too hot: where the air is drawn in, the intercooler"),
    ("P0128", "coolant that stays too cold: thermostat, sensor"),
    ("P0129", "air pressure outside is too low"),
    ("P0130-P0135", "front oxygen sensor, or its heater"),
    ("P0136-P0141", "rear oxygen sensor, or its heater"),
    ("P0150-P0155", "front oxygen sensor of the second bank, or its heater"),
    ("P0156-P0161", "rear oxygen sensor of the second bank, or its heater"),
    ("P0170-P0175", "mixture too lean or too rich: leaks of air first, then fuel pressure"),
    ("P0190-P0194", "fuel pressure sensor"),
    ("P0195-P0199", "oil temperature"),
    ("P0200-P0212", "an injector's circuit"),
    ("P0220-P0224", "second throttle position or pedal signal"),
    ("P0230-P0233", "fuel pump: relay, its coil, its feed"),
    ("P0261-P0296", "an injector's circuit, or a cylinder that gives less than the others"),
    (
        "P0300-P0312",
        "misfire: switch off, disconnect one injector at a time; plug, coil, injector, compression",
    ),
    ("P0320-P0323", "engine speed"),
    ("P0324-P0334", "knock sensor"),
    ("P0335-P0339", "crank sensor: gap, polarity, screen, wires"),
    ("P0340-P0349", "cam sensor"),
    ("P0350-P0362", "a coil's circuit"),
    ("P0365-P0369", "second cam sensor"),
    ("P0380-P0384", "glow plugs"),
    ("P0385-P0389", "second crank sensor"),
    ("P0420-P0424", "catalyst, first bank"),
    ("P0430-P0434", "catalyst, second bank"),
    ("P0443-P0445", "purge valve: its circuit"),
    ("P0458-P0459", "purge valve: its circuit"),
    ("P0446-P0449", "tank vent valve: its circuit"),
    ("P0498-P0499", "tank vent valve: its circuit"),
    ("P0450-P0454", "tank pressure sensor"),
    ("P0455-P0457", "a leak of the tank: filler cap first"),
    ("P0460-P0464", "fuel level sender"),
    ("P0480-P0485", "a fan's control"),
    ("P0500-P0503", "road speed sensor"),
    ("P0504", "the two contacts of the brake switch do not agree"),
    ("P0505-P0509", "idle control"),
    ("P0511", "idle valve: its circuit"),
    ("P0510", "closed throttle switch"),
    ("P0512", "starter request: the key's start wire at the computer"),
    ("P0513", "immobiliser: a key that is not known"),
    ("P0520-P0524", "oil pressure"),
    ("P0560-P0563", "the computer's supply: battery, charging, its feeds and earths"),
    ("P0564-P0570", "cruise control"),
    ("P0574-P0581", "cruise control"),
    ("P0571-P0573", "brake switch"),
    ("P0600", "a serial link inside or between computers"),
    ("P0601-P0607", "the computer itself: its supply and earths first"),
    ("P0610", "the computer's setting for this vehicle"),
    ("P0615-P0617", "starter relay: its coil's circuit"),
    ("P0620-P0623", "the alternator's lamp, field or control"),
    ("P0625-P0626", "the alternator's field"),
    ("P0627-P0629", "fuel pump: the circuit of its control"),
    ("P0641-P0643", "5 V sensor supply A: shorted or overloaded; unplug sensors one by one"),
    ("P0645-P0647", "relay of the air conditioning's clutch: its coil's circuit"),
    ("P0648", "immobiliser lamp: its circuit"),
    ("P0649", "cruise control lamp: its circuit"),
    ("P0650", "check lamp: its circuit"),
    ("P0651-P0653", "5 V sensor supply B: shorted or overloaded; unplug sensors one by one"),
    ("P0654", "tachometer signal"),
    ("P0655", "hot engine lamp"),
    ("P0656", "fuel level signal"),
    ("P0657-P0659", "supply of the computer's outputs"),
    ("P0685-P0690", "main relay: its coil, its contact, its feed"),
    ("P0691-P0696", "a fan's control: its circuit"),
    ("P0697-P0699", "5 V sensor supply C: shorted or overloaded; unplug sensors one by one"),
    ("P0703", "brake switch"),
    ("P0719", "brake switch"),
    ("P0724", "brake switch"),
    ("P0704", "clutch switch: the starter may wait for it"),
    ("P0705-P0709", "gearbox range switch: the starter may wait for it"),
    ("P0710-P0714", "gearbox oil temperature"),
    ("P0830-P0835", "clutch switch: the starter may wait for it"),
    ("P0850-P0852", "park or neutral switch: the starter may wait for it"),
    ("P2100-P2103", "motor of the throttle: its circuit"),
    ("P2122-P2123", "accelerator pedal, first signal"),
    ("P2127-P2128", "accelerator pedal, second signal"),
    ("P2135", "the throttle's two signals do not agree"),
    ("P2138", "the pedal's two signals do not agree"),
    ("U0001-U0029", "the network itself: wires, terminators, which module sends"),
    ("U0073-U0074", "the network itself: shorted, or a module that disturbs it"),
    ("U0100-U0299", "another computer does not answer"),
    ("U0300", "software of two computers that does not match"),
)
"""What codes are about where the job does not say more: single codes and ranges of which each is
known for sure; all others are not in this list.
"""


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
