"""The second demo: the Ostrel Plover van gets the engine of a sister model. All of it is invented.

Its plug for the engine computer still holds the chassis' own wires, some of them elsewhere than
this engine computer wants them; the donor's loom brings the rest.
"""

from molvik.model.crossover import Extension, Pinout, RepinSet
from molvik.model.job import Job, Settings
from molvik.model.parts import (
    Colour,
    Connector,
    Device,
    EarthPoint,
    End,
    Fuse,
    Grid,
    Pin,
    Wire,
    WireSize,
)

ECU_GRID = Grid(5, 14, start="top right")
DONOR_GRID = Grid(4, 16, by="row", start="top left", serpentine=True, gaps=((3, 0), (3, 15)))
BULKHEAD = Grid(2, 8, by="column")
LETTERED = Grid(4, 4, letters=True)
LINK = Grid(2, 5)

# cavity | function | circuit | colour | mm2 | what is at the other end | length m | note
DONOR = """
1  | Earth, power            | 31  | BN    | 1    | E1            | 1.2 |
2  | Earth, power            | 31  | BN    | 1    | E1            | 1.2 |
4  | Supply from main relay  | 87  | RD/WH | 1    | F1            | 1.4 |
5  | Supply from main relay  | 87  | RD/WH | 1    | F1            | 1.4 |
6  | Supply from main relay  | 87  | RD/WH | 1    | F1            | 1.4 |
7  | Permanent supply        | 30  | RD    | 0.75 | F2            | 1.5 |
8  | Injector cyl. 1         | E1  | WH/BK | 0.75 | Injector 1    | 1.1 |
9  | Injector cyl. 2         | E2  | WH/RD | 0.75 | Injector 2    | 1.0 |
10 | Injector cyl. 3         | E3  | WH/GN | 0.75 | Injector 3    | 1.0 |
11 | Injector cyl. 4         | E4  | WH/BU | 0.75 | Injector 4    | 1.1 |
14 | Ignition coil 1-4       | Z1  | BN/YE | 1    | Coil pack     | 1.3 |
15 | Ignition coil 2-3       | Z2  | BN/WH | 1    | Coil pack     | 1.3 |
19 | Engine speed sensor +   | KW  | YE    | 0.5  | Crank sensor  | 1.5 |
20 | Engine speed sensor -   | KW  | YE/BK | 0.5  | Crank sensor  | 1.5 |
21 | Engine speed sensor screen | KW  | BK    | 0.5  | Crank sensor  | 1.5 |
22 | Camshaft sensor signal  | NW  | GN/YE | 0.5  | Cam sensor    | 1.2 |
23 | Camshaft sensor return  | NW  | BN/GN | 0.5  | Cam sensor    | 1.2 |
25 | Throttle 5 V            | DK  | RD/YE | 0.5  | Throttle body | 1.0 |
26 | Throttle wiper          | DK  | BU/WH | 0.5  | Throttle body | 1.0 |
27 | Throttle return         | DK  | BN/YE | 0.5  | Throttle body | 1.0 |
28 | Boost sensor signal     | LD  | WH/BU | 0.5  | Boost sensor  | 0.9 |
29 | Boost sensor 5 V        | LD  | RD/BU | 0.5  | Boost sensor  | 0.9 |
30 | Engine temperature      | MT  | BU/YE | 0.5  | Coolant sensor| 0.8 |
31 | Air temperature         | LT  | BU/RD | 0.5  | Air sensor    | 0.8 |
32 | Sensor minus            | SM  | BN/BU | 0.5  | Coolant sensor| 0.8 |
36 | Lambda signal           | LS  | GY    | 0.5  | Oxygen sensor | 1.9 |
37 | Lambda heater           | LH  | WH/OG | 0.75 | Oxygen sensor | 1.9 |
38 | Knock sensor signal     | KS  | GN    | 0.5  | Knock sensor  | 0.9 |
39 | Knock sensor screen     | KS  | BK    | 0.5  | Knock sensor  | 0.9 |
40 | Idle actuator           | LL  | VT    | 0.75 | Idle valve    | 0.9 |
41 | Canister valve          | TE  | VT/WH | 0.5  | Purge valve   | 1.6 |
44 | Pump relay              | EKP | GN/WH | 0.5  | Pump relay    | 1.7 |
45 | Main relay              | HR  | GN/RD | 0.5  | Main relay    | 1.7 |
46 | Radiator fan relay      | LU  | GN/BK | 0.5  | Fan relay     | 1.7 |
47 | Engine speed out        | TD  | PK/BK | 0.5  | Rev counter   | 2.2 | 2 pulses per turn
48 | Vehicle speed           | VS  | PK    | 0.5  | Gearbox       | 2.0 | 8 pulses per turn
50 | Check engine lamp       | MK  | BU/BK | 0.5  | Check lamp    | 2.2 | pulls low
52 | CAN high                | CH  | OG/BK | 0.5  | Network       | 1.9 |
53 | CAN low                 | CL  | OG/BN | 0.5  | Network       | 1.9 |
58 | Immobiliser line        | WFS | GN/GY | 0.5  | Reader coil   | 2.0 |
61 | Diagnosis               | K   | WH/YE | 0.5  | Diagnostic plug | 2.1 |
"""

# what the engine computer wants: cavity | function | circuit | colour | mm2 | note
ECU = """
1  | Battery supply switched   | 30A | RD/WH | 1    | from main relay
2  | Main relay driver         | 85M | GN/RD | 0.5  | pulls low
3  | Fuel pump relay driver    | 85P | GN/WH | 0.5  | pulls low
4  | Fan relay driver          | 85F | GN/BK | 0.5  |
5  | Injector 1                | I1  | WH/BK | 0.75 |
6  | Injector 2                | I2  | WH/RD | 0.75 |
7  | Injector 3                | I3  | WH/GN | 0.75 |
8  | Injector 4                | I4  | WH/BU | 0.75 |
11 | Coil A driver             | CA  | BN/YE | 1    |
12 | Coil B driver             | CB  | BN/WH | 1    |
13 | Battery supply switched   | 30B | RD/WH | 1    | from main relay
15 | Crank sensor signal       | CK+ | YE    | 0.5  |
16 | Crank sensor return       | CK- | YE/BK | 0.5  |
17 | Crank sensor screen       | CKS | BK    | 0.5  |
18 | Cam sensor signal         | CM+ | GN/YE | 0.5  |
19 | Cam sensor return         | CM- | BK/GN | 0.5  |
21 | Ignition switch           | 15A | BK/RD | 0.75 | alive in run and crank
22 | Throttle 5 V reference    | 5V1 | RD/YE | 0.5  |
23 | TPS signal                | TPS | BU/WH | 0.5  |
24 | TPS ground, sensor return | SR1 | BK/YE | 0.5  |
26 | Start request             | ST  | VT    | 0.5  |
27 | CLT signal                | CLT | BU/YE | 0.5  |
28 | IAT signal                | IAT | BU/RD | 0.5  |
29 | Sensor return             | SR2 | BK/YE | 0.5  |
30 | MAP signal                | MAP | WH/BU | 0.5  |
31 | MAP 5 V reference         | 5V1 | RD/YE | 0.5  |
33 | O2 signal                 | O2  | GY    | 0.5  |
34 | O2 heater                 | O2H | WH/OG | 0.75 | pulls low
37 | Knock signal              | KN+ | GN    | 0.5  |
38 | Knock shield              | KNS | BK    | 0.5  |
41 | Idle valve                | IAC | VT    | 0.75 |
42 | Purge valve               | EVP | VT/WH | 0.5  |
43 | Clutch switch             | CSW | BN/RD | 0.5  |
45 | A/C request               | ACR | BU/GN | 0.5  |
47 | Brake switch              | BSW | BK/YE | 0.5  |
48 | Tachometer                | TA  | PK/BK | 0.5  | 4 pulses per turn
49 | Road speed                | VSS | PK    | 0.5  | 8 pulses per turn
50 | Malfunction lamp          | MIL | BU/BK | 0.5  | pulls low
52 | Battery permanent supply  | 30P | RD    | 0.75 | memory
53 | Oil pressure switch       | OPS | GN/BN | 0.5  |
54 | Reverse lamp switch       | REV | BK/BU | 0.5  |
55 | Pedal sensor signal       | APP | WH/VT | 0.5  |
60 | CAN-H                     | CAN | OG/BK | 0.5  |
61 | CAN-L                     | CAN | OG/BN | 0.5  |
62 | K-line                    | K   | WH/YE | 0.5  |
68 | Power earth 1             | 31A | BK    | 1    |
69 | Power earth 2             | 31B | BK    | 1    |
70 | Power earth 3             | 31C | BK    | 1    |
"""

# the chassis' own wires in that plug today: cavity | function | colour | mm2 | other end | length
CHASSIS = """
69 | Power earth      | BK    | 1    | E2           | 0.9
43 | A/C request      | BU/GN | 0.5  | A/C switch   | 1.8
45 | Brake switch     | BK/YE | 0.5  | Brake switch | 1.6
47 | Clutch switch    | BN/RD | 0.5  | Clutch switch| 1.6
30 | Oil pressure switch | GN/BN | 0.5 | Oil switch | 1.9
53 | Ignition feed    | BK/RD | 0.75 | F3           | 1.1
21 | Starter request  | VT    | 0.5  | Key switch   | 1.5
"""

# the other variant of the same engine computer, by its maker's second table
AUTOMATIC = {
    "43": "Park and neutral switch",
    "54": None,
    "45": "A/C request",
    "63": "Gearbox torque request",
    "61": "CAN-L",
}

# donor cavity | function | colour | mm2 | chassis cavity | chassis says
BULKHEADS = """
1  | Terminal 30             | RD    | 2.5 | A1 | Permanent feed
2  | Terminal 15             | BK/RD | 1.5 | A2 | Key feed
3  | Starter signal          | VT    | 1.5 | A4 | Start signal
4  | Alternator lamp         | BU    | 0.75| B1 | Charge warning
5  | Oil switch              | GN/BN | 0.5 | B3 | Oil pressure sender
6  | Coolant temp gauge      | BU/YE | 0.5 | B2 | Water temperature gauge
9  | Fuel pump               | WH/VT | 1.5 | C1 | Pump feed
10 | Vehicle speed           | PK    | 0.5 | C2 | Road speed
12 | Rear fog lamp           | GY/RD | 0.75|    |
"""
LINKS = """
1 | Reverse light switch     | BK/BU | 0.75| 4 | Reversing lamp switch
2 | Reverse light feed       | BK/GN | 0.75| 5 | Reversing lamp feed
3 | Vehicle speed sensor     | PK    | 0.5 | 1 | VSS
4 | Vehicle speed sensor 5 V | RD/PK | 0.5 | 2 | VSS 5 V
5 | Vehicle speed sensor return | BN/PK | 0.5 | 3 | Sensor ground
6 | Neutral switch           | BN/WH | 0.5 | 7 | Neutral switch
"""


def lines(text: str) -> list[list[str]]:
    return [[cell.strip() for cell in line.split("|")] for line in text.strip().splitlines()]


def colour(text: str) -> Colour | None:
    return Colour(*text.split("/")) if text else None


def size(text: str) -> WireSize:
    return WireSize("metric", float(text))


class Parts:
    """Devices made as they are named, with one terminal for each wire."""

    def __init__(self) -> None:
        self.terminals: dict[str, int] = {}

    def end(self, name: str) -> End:
        if name.startswith("E"):
            if name in ("E1", "E2"):
                return End(name)
        if name in ("F1", "F2", "F3"):
            return End(name, "out")
        self.terminals[name] = self.terminals.get(name, 0) + 1
        return End(f"D{list(self.terminals).index(name) + 2}", str(self.terminals[name]))

    def devices(self) -> tuple[Device, ...]:
        battery = Device("D1", "Battery", "battery", ("+", "-"))
        return (
            battery,
            *(
                Device(f"D{n}", name, "load", tuple(str(t + 1) for t in range(count)))
                for n, (name, count) in enumerate(self.terminals.items(), start=2)
            ),
        )


def build() -> Job:
    """Build the job."""
    parts, wires = Parts(), []

    def run(
        start: End, finish: End, function: str, tint: str, area: str, length: float, note: str = ""
    ) -> None:
        wires.append(
            Wire(
                f"W{len(wires) + 1}",
                start,
                finish,
                function,
                "",
                colour(tint),
                size(area),
                "C125",
                length,
                note=note,
            )
        )

    for cavity, function, _, tint, area, other, length, note in lines(DONOR):
        run(End("C1", cavity), parts.end(other), function, tint, area, float(length), note)
    for cavity, function, tint, area, other, length in lines(CHASSIS):
        run(End("C2", cavity), parts.end(other), function, tint, area, float(length))
    for cavity, function, tint, area, _, _ in lines(BULKHEADS):
        run(End("C3", cavity), parts.end(f"{function}, donor"), function, tint, area, 1.0)
    for cavity, function, tint, area, _, _ in lines(LINKS):
        run(End("C5", cavity), parts.end("Gearbox"), function, tint, area, 0.6)
    run(End("D1", "+"), End("F1", "in"), "Battery to main relay fuse", "RD", "6", 0.4)
    run(End("D1", "+"), End("F2", "in"), "Battery to memory fuse", "RD", "6", 0.4)
    run(End("D1", "+"), End("F3", "in"), "Battery to key fuse", "RD", "6", 0.4)
    run(End("D1", "-"), End("E1"), "Battery earth", "BK", "25", 0.6)
    donor = tuple(
        Pin(cavity, function, circuit, colour(tint), size(area), note)
        for cavity, function, circuit, tint, area, _, _, note in lines(DONOR)
    )
    ecu = tuple(
        Pin(cavity, function, circuit, colour(tint), size(area), note)
        for cavity, function, circuit, tint, area, note in lines(ECU)
    )
    bulkhead = tuple(
        Pin(there, says, "", colour(tint), size(area))
        for _, _, tint, area, there, says in lines(BULKHEADS)
        if there
    )
    link = tuple(
        Pin(there, says, "", colour(tint), size(area))
        for _, _, tint, area, there, says in lines(LINKS)
    )
    automatic = tuple(
        Pin(
            pin.cavity,
            AUTOMATIC.get(pin.cavity, pin.function) or "",
            pin.circuit,
            pin.colour,
            pin.size,
            pin.note,
        )
        for pin in ecu
        if AUTOMATIC.get(pin.cavity, "") is not None
    )
    automatic += (Pin("63", "Gearbox torque request", "TQ", Colour("BU", "PK"), size("0.5")),)
    connectors = (
        Connector(
            "C1",
            "Donor engine plug",
            DONOR_GRID,
            "plug",
            "socket",
            "20",
            pins=donor,
            key="top",
            lever="top",
        ),
        Connector(
            "C2",
            "Engine computer plug",
            ECU_GRID,
            "plug",
            "socket",
            "20",
            pins=ecu,
            key="bottom",
            lever="top",
        ),
        Connector("C3", "Bulkhead, donor", BULKHEAD, "plug", "socket", "16"),
        Connector("C4", "Bulkhead, chassis", LETTERED, "plug", "socket", "16", pins=bulkhead),
        Connector("C5", "Gearbox link, donor", LINK, "plug", "socket", "20"),
        Connector("C6", "Gearbox link, chassis", LINK, "plug", "socket", "16", pins=link),
    )
    sets = (
        RepinSet(
            "Q1",
            "Engine computer plug",
            ("C1",),
            "C2",
            extensions=(
                Extension("C1/36", 0.35, "the sensor sits on the other side"),
                Extension("C1/38", 0.25, "the plug comes from the left now"),
            ),
        ),
        RepinSet("Q2", "Bulkhead, 16-way", ("C3",), "C4"),
        RepinSet("Q3", "Gearbox link, 10-way", ("C5",), "C6"),
    )
    return Job(
        "demo-plover",
        "Plover van",
        "sister model's engine",
        Settings(measured_by="Mirel"),
        connectors,
        (Fuse("F1", "Main relay", 15), Fuse("F2", "Memory", 5), Fuse("F3", "Key on", 10)),
        (),
        (EarthPoint("E1", "Engine block"), EarthPoint("E2", "Bulkhead stud")),
        parts.devices(),
        tuple(wires),
        pinouts=(Pinout("C2", "with automatic gearbox", automatic),),
        repins=sets,
    )
