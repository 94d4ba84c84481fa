"""Words by which functions are told apart, and which of them mean the same (common practice in
manuals; no source).
"""

_SAME: dict[str, str] = {
    "left": "lh", "right": "rh", "front": "fr frt", "rear": "rr back",
    "upper": "top", "lower": "bottom", "positive": "", "high": "hi", "low": "lo",
    "temperature": "temp", "position": "posn", "pressure": "press", "switch": "sw switched",
    "sensor": "sender sens snsr sensors", "signal": "sig", "relay": "rly rel",
    "lamp": "light bulb lamps lights",
    "valve": "solenoid sol vlv", "pump": "pmp", "motor": "mtr", "request": "req",
    "supply": "feed live",
    "earth": "ground gnd", "control": "ctrl cntrl controlled", "driver": "drive drv",
    "output": "out",
    "input": "in", "gauge": "meter", "warning": "warn", "level": "lvl", "speed": "spd",
    "heater": "htr heating", "alternator": "generator", "battery": "batt bat", "ignition": "ign",
    "return": "rtn", "screen": "shield", "module": "ecu ecm ecus unit computer",
    "injector": "inj injectors", "indicator": "ind", "headlamp": "headlight headlamps headlights",
    "tail": "taillight taillamp", "horn": "hooter", "fan": "blower", "start": "starting",
    "off": "", "on": "", "open": "opening opened", "closed": "close closing shut",
    "forward": "fwd forwards", "reverse": "rev reversing backwards", "air": "",
    "fuel": "petrol gasoline",
    "windscreen": "windshield", "wiper": "wipers", "washer": "washers", "inlet": "intake",
    "exhaust": "exh", "camshaft": "", "actuator": "act", "adjuster": "adj", "secondary": "sec",
    "primary": "prim pri", "enable": "en", "interior": "inside", "exterior": "outside",
    "door": "doors", "window": "windows", "mirror": "mirrors", "seat": "seats",
    "boot": "trunk tailgate",
    "bonnet": "hood", "tyre": "tire", "number": "licence license", "beam": "beams", "main": "",
    "dipped": "dip dimmed", "auxiliary": "aux", "diagnosis": "diag", "coolant": "water",
}  # fmt: skip

SAME: dict[str, str] = {
    other: word for word, others in _SAME.items() for other in (word, *others.split())
} | {"plus": "+", "positive": "+", "minus": "-", "negative": "-", "−": "-", "neg": "-"}
"""Each word with the one that stands for it here."""

NUMBERS: dict[str, str] = {
    "one": "1", "two": "2", "three": "3", "four": "4", "five": "5", "six": "6", "first": "1",
    "second": "2", "third": "3", "fourth": "4", "ii": "2", "iii": "3", "iv": "4",
}  # fmt: skip

SAYS_NOTHING = frozenset({
    "the", "of", "to", "for", "from", "and", "with", "at", "an", "wire", "circuit", "line",
    "number", "cylinder", "cyl", "pin", "terminal", "lead", "cable", "st", "nd", "rd", "th",
})  # fmt: skip
"""Words that tell nothing from anything."""

DRIVEN = frozenset({
    "injector", "coil", "idle", "purge", "pump relay", "main relay", "fan relay", "relay", "valve",
    "check lamp", "heater", "tachometer",
})  # fmt: skip
"""Things that a module drives: its output, its driver and the thing itself are one conductor."""

INDUCTIVE = frozenset({"crank", "knock"})
"""Sensors with two conductors, of which + is the signal."""
