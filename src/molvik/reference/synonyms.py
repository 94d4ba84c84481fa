"""What pinouts of different makers call the same thing (common practice in manuals; no source).

Each line: the word used here, then what else it is called. Phrases are tried the longest first.
"""

SYNONYMS: dict[str, tuple[str, ...]] = {
    "injector": ("injection valve", "injectors", "inj", "fuel injector", "einspritzventil"),
    "coil": ("ignition coil", "ign coil", "ignition output", "ignition driver", "coil driver"),
    "throttle": ("tps", "throttle position sensor", "throttle position", "throttle sensor",
                 "throttle pot", "throttle potentiometer", "throttle wiper",
                 "throttle position wiper"),
    "pedal": ("accelerator pedal", "app", "pedal position sensor", "pedal sensor",
              "pedal wiper"),
    "coolant": ("clt", "ect", "cts", "coolant temperature sensor", "coolant temperature",
                "coolant sensor", "coolant temp", "engine temperature", "engine temp",
                "water temperature", "water temp"),
    "intake air": ("iat", "act", "mat", "intake air temperature", "intake air sensor",
                   "air temperature", "air temp", "intake temperature"),
    "crank": ("ckp", "cps", "crank sensor", "crankshaft sensor", "crankshaft", "crank position",
              "engine speed sensor", "rpm sensor"),
    "cam": ("cmp", "cam sensor", "camshaft sensor", "camshaft", "cam position", "phase sensor"),
    "oxygen": ("o2", "o2 sensor", "oxygen sensor", "lambda", "lambda sensor", "lambda probe",
               "hego", "ego sensor"),
    "manifold pressure": ("map", "map sensor", "boost sensor", "boost pressure",
                          "manifold absolute pressure", "manifold pressure sensor"),
    "air mass": ("maf", "air mass meter", "mass air flow", "air flow meter", "afm", "air meter"),
    "knock": ("knock sensor", "ks", "detonation sensor"),
    "idle": ("iac", "idle valve", "idle actuator", "idle air control", "idle control valve",
             "idle speed valve", "isc"),
    "purge": ("purge valve", "canister valve", "canister purge", "evap valve", "evap purge"),
    "pump relay": ("fuel pump relay", "fuel pump relay driver", "pump relay driver", "fp relay",
                   "ekp"),
    "main relay": ("ecu relay", "power relay", "main relay driver", "main relay control"),
    "fan": ("cooling fan", "radiator fan", "rad fan"),
    "fan relay": ("cooling fan relay", "radiator fan relay", "fan relay driver",
                  "fan relay control"),
    "tachometer": ("tacho", "rev counter", "engine speed out", "engine speed output", "td",
                   "tach", "tach out", "rpm out"),
    "road speed": ("vss", "vehicle speed", "vehicle speed sensor", "road speed sensor"),
    "charge lamp": ("alternator lamp", "d+", "charge warning", "alternator light"),
    "check lamp": ("mil", "malfunction lamp", "check engine", "check engine lamp",
                   "check engine light", "engine lamp", "fault lamp",
                   "warning lamp, engine"),
    "start": ("cranking", "start signal", "starter signal"),
    "start request": ("starter request", "crank request"),
    "diagnosis": ("k line", "k-line", "diagnostic", "diagnostics", "diagnostic line",
                  "iso 9141"),
    "immobiliser": ("immobilizer", "immobiliser line", "immo", "theft"),
    "clutch switch": (),
    "brake switch": ("brake lamp switch", "stop lamp switch", "brake light switch"),
    "oil pressure": ("oil press",),
    "oil pressure switch": ("oil switch", "oil press switch"),
    "oil pressure sensor": ("oil sender", "oil pressure sender", "oil sensor"),
    "fuel level": ("tank level", "fuel sender", "fuel level sensor", "fuel level sender",
                   "tank sender"),
    "air conditioning": ("a/c", "ac", "air con", "aircon"),
    "gearbox": ("transmission", "trans"),
    "reverse switch": ("reverse lamp switch", "reversing lamp switch", "reverse light switch",
                       "reversing light switch", "reversing switch"),
    "reverse lamp": ("reversing lamp", "reverse light", "reversing light", "backup lamp",
                     "backup light"),
    "lamp": ("light",),
    "network high": ("can high", "can h", "can-h", "can+"),
    "network low": ("can low", "can l", "can-l", "can-"),
    "heater": ("heating", "htr"),
    "reference": ("5v", "5 v", "vref", "5 v reference", "5v reference", "ref", "sensor supply",
                  "sensor feed", "5 volt", "5 v supply", "5v supply"),
    "return": ("sensor return", "sensor ground", "sensor earth", "signal ground", "signal earth",
               "signal return", "sensor minus", "sensor 0v", "0v", "low reference"),
    "screen": ("shield", "drain", "screening", "case shield"),
    "earth": ("ground", "gnd", "power earth", "power ground", "earth, power", "chassis earth",
              "chassis ground", "engine earth", "engine ground", "kl. 31", "kl 31", "terminal 31"),
    "permanent supply": ("battery permanent supply", "permanent feed", "battery supply",
                         "battery feed", "constant supply", "constant feed", "memory supply",
                         "kl. 30", "kl 30", "terminal 30", "battery +", "b+", "ubat", "keep alive",
                         "permanent", "permanent live"),
    "key supply": ("ignition supply", "ignition feed", "key on", "key feed", "ignition switch",
                   "switched supply", "switched feed", "ignition on", "kl. 15", "kl 15",
                   "terminal 15", "run and crank"),
    "relay supply": ("supply from main relay", "main relay supply", "battery supply switched",
                     "relay output", "relay feed", "main relay output", "ecu supply",
                     "kl. 87", "kl 87", "terminal 87"),
    "signal": ("sig", "output signal"),
}  # fmt: skip

NOISE = ("sensor", "driver", "cyl", "cylinder", "no", "number", "the", "of", "to", "line", "input",
         "control", "circuit", "wire", "switch", "valve", "from", "for")  # fmt: skip
"""Words that say little about which signal it is."""

SENSORS = frozenset({
    "throttle", "pedal", "coolant", "intake air", "crank", "cam", "oxygen", "manifold pressure",
    "air mass", "knock", "fuel level", "oil pressure", "oil pressure sensor", "road speed",
})  # fmt: skip
"""Things whose earth is a return and whose supply is a reference: never a power earth or 12 V."""

MANY_KINDS = frozenset({"oil pressure", "road speed", "crank"})
"""Things of which there are sensors and others, so that "sensor" says something."""

DIN_TERMINALS: dict[str, str] = {
    "30": "permanent supply",
    "15": "key supply",
    "87": "relay supply",
    "31": "earth",
    "50": "start",
    "61": "charge lamp",
    "D+": "charge lamp",
}
"""Terminal numbers of DIN 72552 as circuits, and what they are here."""
