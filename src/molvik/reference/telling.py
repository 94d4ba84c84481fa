"""Words by which functions are told apart, and which of them mean the same (common practice in
manuals; no source).
"""

_SAME: dict[str, str] = {
    "left": "lh",
    "right": "rh",
    "front": "fr frt",
    "rear": "rr back",
    "upper": "top",
    "lower": "bottom",
    "positive": "",
    "high": "hi",
    "low": "lo",
    "temperature": "temp",
    "position": "posn",
    "pressure": "press",
    "switch": "sw switched",
    "sensor": "sender sens snsr sensors",
    "signal": "sig",
    "relay": "rly rel",
    "lamp": "light bulb lamps lights",
    "valve": "solenoid sol vlv",
    "pump": "pmp",
    "motor": "mtr",
    "request": "req",
    "supply": "feed live",
    "earth": "ground gnd",
    "control": "ctrl cntrl controlled",
    "driver": "drive drv",
    "output": "out",
    "input": "in",
    "gauge": "meter",
    "warning": "warn",
    "level": "lvl",
    "speed": "spd",
    "heater": "htr heating",
    "alternator": "generator",
    "battery": "batt bat",
    "ignition": "ign",
    "return": "rtn",
    "screen": "shield",
    "module": "ecu ecm ecus unit computer",
    "injector": "inj injectors",
    "indicator": "ind",
    "headlamp": "headlight headlamps headlights",
    "tail": "taillight taillamp",
    "horn": "hooter",
    "fan": "blower",
    "start": "starting",
    "off": "",
    "on": "",
    "open": "opening opened",
    "closed": "close closing shut",
    "forward": "fwd forwards",
    "reverse": "rev reversing backwards",
    "air": "",
    "fuel": "petrol gasoline",
    "windscreen": "windshield",
    "wiper": "wipers",
    "washer": "washers",
    "inlet": "intake",
    "exhaust": "exh",
    "camshaft": "",
    "actuator": "act",
    "adjuster": "adj",
    "secondary": "sec",
    "primary": "prim pri",
    "enable": "en",
    "interior": "inside",
    "exterior": "outside",
    "door": "doors",
    "window": "windows",
    "mirror": "mirrors",
    "seat": "seats",
    "boot": "trunk tailgate",
    "bonnet": "hood",
    "tyre": "tire",
    "number": "licence license",
    "beam": "beams",
    "main": "",
    "dipped": "dip dimmed",
    "auxiliary": "aux",
    "diagnosis": "diag",
    "coolant": "water",
}

SAME: dict[str, str] = {
    other: word for word, others in _SAME.items() for other in (word, *others.split())
} | {"plus": "+", "positive": "+", "minus": "-", "negative": "-", "−": "-", "neg": "-"}
"""Each word with the one that stands for it here."""

NUMBERS: dict[str, str] = {
    "one": "1",
    "two": "2",
    "three": "3",
    "four": "4",
    "five": "5",
    "six": "6",
    "first": "1",
    "second": "2",
    "third": "3",
    "fourth": "4",
    "ii": "2",
    "iii": "3",
    "iv": "4",
}

SAYS_NOTHING = frozenset(
    {
        "the",
        "of",
        "to",
        "for",
        "from",
        "and",
        "with",
        "at",
        "an",
        "wire",
        "circuit",
        "line",
        "number",
        "cylinder",
        "cyl",
        "pin",
        "terminal",
        "lead",
        "cable",
        "st",
        "nd",
        "rd",
        "th",
    }
)
"""Words that tell nothing from anything."""

DRIVEN = frozenset(
    {
        "injector",
        "coil",
        "idle",
        "purge",
        "pump relay",
        "main relay",
        "fan relay",
        "relay",
        "valve",
        "check lamp",
        "heater",
        "tachometer",
    }
)
"""Things that a module drives: its output, its driver and the thing itself are one conductor."""

INDUCTIVE = frozenset({"crank", "knock"})
"""Sensors with two conductors, of which + is the signal."""

MEASURED = frozenset(
    {
        "temperature",
        "pressure",
        "level",
        "position",
        "speed",
        "mass",
        "flow",
        "current",
        "angle",
    }
)
"""What is measured of a thing."""

PARTS = frozenset(
    {
        "sensor",
        "switch",
        "lamp",
        "relay",
        "motor",
        "valve",
        "heater",
        "gauge",
        "request",
        "screen",
        "return",
        "reference",
        "earth",
        "compressor",
        "actuator",
        "stepper",
        "feedback",
        "hall",
        "socket",
        "+",
        "-",
        "left",
        "right",
        "front",
        "rear",
        "high",
        "low",
    }
)
"""Kinds of parts, and what tells several of one kind apart."""

FILLER = frozenset(
    {
        "signal",
        "driver",
        "control",
        "output",
        "input",
        "module",
        "engine",
        "electronic",
        "electric",
        "wire",
        "trigger",
        "side",
        "voltage",
        "variable",
        "system",
        "main",
        "unit",
        "circuit",
        "line",
        "power",
        "supply",
        "pwm",
        "track",
        "magnet",
        "drive",
        "common",
        "data",
        "value",
        "contact",
        "ecu",
    }
)
"""Words that say little beside others."""

APART: dict[str, str] = {
    "coolant": "coolant temperature",
    "intake air": "air temperature",
    "throttle": "throttle",
    "pump relay": "fuel pump relay",
    "main relay": "main relay",
    "fan relay": "fan relay",
    "brake switch": "brake switch",
    "clutch switch": "clutch switch",
    "oil pressure switch": "oil pressure switch",
    "oil pressure sensor": "oil pressure sensor",
    "oil pressure": "oil pressure",
    "manifold pressure": "manifold pressure",
    "fuel level": "fuel level",
    "check lamp": "check lamp",
    "charge lamp": "charge lamp",
    "start request": "start request",
    "reverse lamp": "reverse lamp",
    "air mass": "airmass",
    "reverse switch": "reverse switch",
    "air conditioning": "aircon",
    "idle": "idle",
    "road speed": "road speed",
    "network high": "network high",
    "network low": "network low",
}
"""Words that stand for several, as they are weighed."""

KINDRED: dict[frozenset[str], float] = {
    frozenset(pair.split("/")): near
    for near, pairs in (
        (
            0.9,
            "high/fast low/slow stop/brake actuator/valve actuator/motor pump/motor tail/rear "
            "window/windscreen instrument/dash fan/motor compressor/relay interior/dome "
            "handbrake/parking switch/contact airmass/flow air/airmass",
        ),
        (
            0.8,
            "coil/ignition crank/engine start/starter wheel/road boost/manifold stepper/motor "
            "defogger/heater defroster/heater illumination/lamp position/angle",
        ),
        (0.6, "speed/tachometer relay/output relay/driver output/control"),
    )
    for pair in pairs.split()
}
"""Words that are not the same, but often stand for each other."""

_GROUPS = (
    "left/right",
    "front/rear",
    "upper/lower",
    "+/-",
    "high,fast/low,slow",
    "inlet/exhaust",
    "open/close",
    "up/down",
    "before/after",
    "bank1/bank2",
    "probe1/probe2",
    "dipped/high beam",
    "nearside/offside",
    "lock/unlock",
    "primary/secondary",
    "forward/reverse",
    "driver/passenger",
    "temperature/pressure/level/position/speed/mass",
    "sensor,switch/lamp/relay/valve,motor,actuator,stepper,pump/heater/gauge/request/feedback",
    "network/lamp,sensor,switch,relay,valve,motor,heater,gauge,coil,injector",
)

EXCLUDING: tuple[dict[str, str], ...] = tuple(
    {word: side for side in group.split("/") for word in side.split(",")} for group in _GROUPS
)
"""Words of which a name has one: two names with different ones are not for each other."""
