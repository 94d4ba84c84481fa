"""The looms to build of the fire tender: engine loom and cab loom, with a few honest mistakes.

A stretch too near the manifold, a splice beside a breakout and one in a stretch that moves when the
cab is tilted, a hole that is too small for its bundle and a plug that does not pass it, a sender
whose branch is longer than its wire, plugs alike within reach of each other, and a heat sleeve that
was thought of when the plugs on both sides of it were on.
"""

from molvik.model.routing import LoomNode, NewLoom, Routing, Run, Zone

ENGINE, CAB = "H1", "H2"

FUSE_BOX = (
    "F1",
    "F2",
    "F3",
    "F4",
    "F5",
    "F6",
    "F7",
    "F8",
    "F9",
    "F10",
    "F11",
    "F12",
    "F14",
    "K1",
    "K2",
    "K3",
    "K4",
    "K5",
    "K6",
    "D5",
)

ZONES = (
    Zone(
        "Manifold",
        hot_c=320,
        distance_mm=60,
        wide_mm=70,
        access="heat shield, 4 bolts",
        access_min=25,
    ),
    Zone("Exhaust pipe", place="exhaust", access="from below, on a ramp", access_min=15),
    Zone("Cab", place="cabin", access="dash panel", access_min=40),
    Zone("Tilt hinge", moves=True, wet=True, access="cab tilted", access_min=10),
    Zone("Under the floor", place="tank", wet=True, access="floor plate, 8 bolts", access_min=20),
)

# name: what it carries; kind and hole where it has them
ENGINE_JOINTS: dict[str, tuple[str, ...]] = {
    "Engine computer": ("C2",),
    "Bulkhead": (),
    "Bulkhead, engine side": ("C3",),
    "Fuse box": FUSE_BOX,
    "Rail, rear": (),
    "Injector splice": ("S1",),
    "Rail, front": (),
    "Injector 1": ("C8",),
    "Injector 2": ("C9",),
    "Injector 3": ("C10",),
    "Injector 4": ("C11",),
    "Coil pack": ("C12",),
    "Coolant sensor": ("C7",),
    "Throttle sensor": ("C6",),
    "Idle valve": ("C15",),
    "Intake air sensor": ("C16",),
    "Block, left side": (),
    "Crank sensor": ("C5",),
    "Oxygen sensor": ("C14",),
    "Engine block": ("E1",),
    "Oil pressure switch": ("D26",),
    "Starter": ("D3",),
    "Coolant sender": ("D27",),
    "Alternator": ("D2",),
    "Sensor return splice": ("S2",),
    "Computer earths": ("S3",),
}
CLOSED = ("Engine computer", "Oxygen sensor")
"""Ends that carry the plugs of the donor, which stay on."""

# from, to, m, zone, covering, clips
ENGINE_RUNS: tuple[tuple[str, str, float, str, str, int], ...] = (
    ("Engine computer", "Bulkhead", 0.25, "", "split tube", 1),
    ("Bulkhead", "Bulkhead, engine side", 0.25, "", "split tube", 1),
    ("Bulkhead", "Fuse box", 0.20, "", "split tube", 1),
    ("Bulkhead", "Rail, rear", 0.25, "", "split tube", 1),
    ("Rail, rear", "Injector splice", 0.05, "", "split tube", 0),
    ("Injector splice", "Rail, front", 0.05, "", "split tube", 0),
    ("Rail, rear", "Injector 1", 0.15, "", "split tube", 0),
    ("Rail, rear", "Injector 2", 0.08, "", "split tube", 0),
    ("Rail, front", "Injector 3", 0.08, "", "split tube", 0),
    ("Rail, front", "Injector 4", 0.15, "", "split tube", 0),
    ("Rail, front", "Coil pack", 0.25, "", "split tube", 1),
    ("Rail, front", "Coolant sensor", 0.12, "", "split tube", 0),
    ("Rail, front", "Throttle sensor", 0.20, "", "split tube", 1),
    ("Rail, front", "Idle valve", 0.25, "", "split tube", 1),
    ("Rail, front", "Intake air sensor", 0.20, "", "split tube", 1),
    ("Rail, rear", "Block, left side", 0.30, "Manifold", "split tube", 1),
    ("Block, left side", "Crank sensor", 0.35, "", "split tube", 1),
    ("Block, left side", "Oxygen sensor", 0.30, "Exhaust pipe", "heat sleeve", 1),
    ("Rail, rear", "Engine block", 0.20, "", "", 0),
    ("Block, left side", "Oil pressure switch", 0.15, "", "split tube", 0),
    ("Block, left side", "Starter", 0.35, "", "split tube", 1),
    ("Rail, front", "Coolant sender", 0.95, "", "split tube", 2),
    ("Rail, front", "Alternator", 0.45, "", "split tube", 2),
    ("Bulkhead", "Sensor return splice", 0.03, "", "tape", 0),
    ("Engine computer", "Computer earths", 0.10, "", "tape", 0),
)
CAB_JOINTS: dict[str, tuple[str, ...]] = {
    "Bulkhead, cab side": ("C4",),
    "Behind the dash": (),
    "Key switch": ("D4", "D6"),
    "Lamp switch": ("D7",),
    "Instrument cluster": ("D22", "D23", "D24", "D25", "S4", "S5"),
    "Cab fuse holder": ("F13", "F15"),
    "Diagnosis": ("D29", "D31"),
    "Horn push": ("D34",),
    "Wiper switch": ("D36",),
    "Wiper motor": ("D35", "C17"),
    "Brake pedal": ("D37",),
    "Heater": ("D10",),
    "Floor earth": ("E2",),
    "Hour counter": ("D32",),
    "Beacon": ("D9",),
    "Headlamps": ("D8",),
    "Brake lamp splice": ("S6",),
    "Rear bulkhead": (),
    "Fuel pump": ("C13",),
    "Tank sender": ("D28",),
    "Brake lamp, left": ("D38",),
    "Brake lamp, right": ("D39",),
}
CAB_RUNS: tuple[tuple[str, str, float, str, str, int], ...] = (
    ("Bulkhead, cab side", "Behind the dash", 0.40, "Cab", "tape", 2),
    ("Behind the dash", "Key switch", 0.10, "Cab", "tape", 0),
    ("Behind the dash", "Lamp switch", 0.25, "Cab", "tape", 1),
    ("Behind the dash", "Instrument cluster", 0.25, "Cab", "tape", 1),
    ("Behind the dash", "Cab fuse holder", 0.10, "Cab", "tape", 0),
    ("Behind the dash", "Diagnosis", 0.10, "Cab", "tape", 0),
    ("Behind the dash", "Horn push", 0.30, "Cab", "tape", 1),
    ("Behind the dash", "Wiper switch", 0.20, "Cab", "tape", 1),
    ("Behind the dash", "Wiper motor", 0.50, "Cab", "tape", 2),
    ("Behind the dash", "Brake pedal", 0.35, "Cab", "tape", 1),
    ("Behind the dash", "Hour counter", 0.50, "Cab", "tape", 2),
    ("Behind the dash", "Beacon", 0.95, "Cab", "tape", 3),
    ("Behind the dash", "Headlamps", 0.60, "Cab", "tape", 2),
    ("Behind the dash", "Floor earth", 0.50, "Cab", "tape", 2),
    ("Floor earth", "Heater", 0.10, "Cab", "tape", 1),
    ("Floor earth", "Brake lamp splice", 0.40, "Tilt hinge", "braid", 1),
    ("Brake lamp splice", "Rear bulkhead", 0.30, "Under the floor", "split tube", 1),
    ("Rear bulkhead", "Fuel pump", 0.50, "Under the floor", "split tube", 2),
    ("Rear bulkhead", "Tank sender", 1.30, "Under the floor", "split tube", 4),
    ("Rear bulkhead", "Brake lamp, left", 1.40, "Under the floor", "split tube", 5),
    ("Rear bulkhead", "Brake lamp, right", 1.70, "Under the floor", "split tube", 6),
)


def routing() -> Routing:
    """Return both looms."""
    joints: list[LoomNode] = []
    runs: list[Run] = []
    for loom, names, ways in ((ENGINE, ENGINE_JOINTS, ENGINE_RUNS), (CAB, CAB_JOINTS, CAB_RUNS)):
        code: dict[str, str] = {}
        for name, carries in names.items():
            code[name] = f"J{len(joints) + 1}"
            hole = 9.0 if name == "Rear bulkhead" else None
            kind = "grommet" if hole else "splice" if carries[:1] in (("S6",), ("S1",)) else ""
            joints.append(
                LoomNode(
                    code[name],
                    loom,
                    name,
                    kind,
                    carries,  # type: ignore[arg-type]
                    hole_mm=hole,
                    closed=name in CLOSED,
                )
            )
        for start, finish, length, zone, covering, clips in ways:
            runs.append(
                Run(
                    f"R{len(runs) + 1}",
                    code[start],
                    code[finish],
                    length,
                    "measured",
                    zone,
                    covering,
                    clips,
                )
            )
    looms = (NewLoom(ENGINE, "Engine loom"), NewLoom(CAB, "Cab loom"))
    return Routing(looms, tuple(joints), tuple(runs), ZONES)
