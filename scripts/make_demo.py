"""Write the demos: the Ostrel Marten fire tender with its two pinout tables, the Plover van.

    python scripts/make_demo.py [FOLDER]

All of it is invented, with a few honest mistakes for the program to find.
"""

import csv
import sys
from pathlib import Path

import demo_heron
import demo_photos
import demo_plover
import demo_routing

from molvik.files.jobtext import encode_job
from molvik.files.tables import read_raw_table
from molvik.model.geometry import cavities
from molvik.model.job import Job, LeftOut, Reading, Settings
from molvik.model.log import LogEntry
from molvik.model.loom import Fault, FoundWire, Loom, Node, Segment
from molvik.model.parts import (
    Bundle,
    Colour,
    Connector,
    Device,
    EarthPoint,
    End,
    Fuse,
    Grid,
    Output,
    Position,
    Splice,
    Wire,
)
from molvik.model.photos import Photo
from molvik.model.stock import StockItem
from molvik.netlist.ends import read_end
from molvik.netlist.network import Network
from molvik.parsing.quantities import read_length_m, read_size
from molvik.pinouts.columns import find_columns
from molvik.pinouts.table import read_table
from molvik.reference.coverings import find_covering
from molvik.routing.board.revisions import given_out
from molvik.survey.measured import reckon

ECU_GRID = Grid(5, 14, start="top right")
DONOR_GRID = Grid(4, 16, by="row", start="top left", serpentine=True, gaps=((3, 0), (3, 15)))

LAY_MM = 30.0
"""How far one turn of a twisted pair runs, mm: some 33 turns a metre."""

# cavity: function, circuit, colour (single letters), size mm2, note
ECU = {
    1: ("Battery supply switched", "30A", "R/W", "1.0", "from main relay"),
    2: ("Main relay driver", "85M", "G/R", "0.5", "pulls low"),
    3: ("Fuel pump relay driver", "85P", "G/W", "0.5", "pulls low"),
    5: ("Injector 1", "I1", "W/B", "0.75", ""),
    6: ("Injector 2", "I2", "W/R", "0.75", ""),
    7: ("Injector 3", "I3", "W/G", "0.75", ""),
    8: ("Injector 4", "I4", "W/L", "0.75", ""),
    11: ("Coil A driver", "CA", "BR/Y", "1.0", ""),
    12: ("Coil B driver", "CB", "BR/W", "1.0", ""),
    15: ("Crank sensor signal", "CK+", "Y", "0.5", "twisted with 16"),
    16: ("Crank sensor return", "CK-", "Y/B", "0.5", ""),
    17: ("Crank sensor screen", "CKS", "B", "0.5", "earthed at this end only"),
    22: ("Throttle 5 V reference", "5V1", "R/Y", "0.5", ""),
    23: ("Throttle sensor signal", "TPS", "L/W", "0.5", ""),
    24: ("Sensor return", "SR1", "B/Y", "0.5", ""),
    27: ("Coolant sensor signal", "CLT", "L/Y", "0.5", ""),
    28: ("Intake air sensor signal", "IAT", "L/R", "0.5", ""),
    33: ("Oxygen sensor signal", "O2", "GR", "0.5", ""),
    34: ("Oxygen sensor heater", "O2H", "W/O", "0.75", "pulls low"),
    41: ("Idle valve", "IAC", "V", "0.75", ""),
    48: ("Tachometer", "TA", "P/B", "0.5", ""),
    52: ("Battery permanent supply", "30P", "R", "0.75", "memory"),
    66: ("Case shield", "SH", "B", "0.5", ""),
    68: ("Power earth 1", "31A", "B", "1.0", ""),
    69: ("Power earth 2", "31B", "B", "1.0", ""),
    70: ("Power earth 3", "31C", "B", "1.0", ""),
}

# the donor's plug: cavity: function, circuit, colour (German), size mm2
DONOR = {
    1: ("Earth, power", "31", "br", "1.5"),
    2: ("Earth, power", "31", "br", "1.5"),
    4: ("Supply from main relay", "87", "rt/ws", "1.0"),
    5: ("Permanent supply", "30", "rt", "0.75"),
    8: ("Injector cyl. 1", "E1", "ws/sw", "0.75"),
    9: ("Injector cyl. 2", "E2", "ws/rt", "0.75"),
    10: ("Injector cyl. 3", "E3", "ws/gn", "0.75"),
    11: ("Injector cyl. 4", "E4", "ws/bl", "0.75"),
    14: ("Ignition coil 1-4", "Z1", "br/ge", "1.0"),
    15: ("Ignition coil 2-3", "Z2", "br/ws", "1.0"),
    19: ("Speed sensor +", "KW", "ge", "0.5"),
    20: ("Speed sensor -", "KW", "ge/sw", "0.5"),
    21: ("Speed sensor screen", "KW", "sw", "0.5"),
    25: ("Throttle 5 V", "DK", "rt/ge", "0.5"),
    26: ("Throttle wiper", "DK", "bl/ws", "0.5"),
    27: ("Throttle and temperature return", "DK", "br/ge", "0.5"),
    30: ("Engine temperature", "MT", "bl/ge", "0.5"),
    31: ("Air temperature", "LT", "bl/rt", "0.5"),
    36: ("Lambda signal", "LS", "gr", "0.5"),
    37: ("Lambda heater", "LH", "ws/or", "0.75"),
    40: ("Idle actuator", "LL", "vi", "0.75"),
    44: ("Pump relay", "EKP", "gn/ws", "0.5"),
    45: ("Main relay", "HR", "gn/rt", "0.5"),
    52: ("Engine speed out", "TD", "rs/sw", "0.5"),
    58: ("Immobiliser line", "WFS", "gn/ge", "0.5"),
    61: ("Diagnosis", "K", "ws/ge", "0.5"),
}

BULKHEAD = Grid(2, 8, by="column")

CONNECTORS = (
    Connector("C1", "Donor engine plug", DONOR_GRID, "plug", "socket", "20"),
    Connector("C2", "ECU plug", ECU_GRID, "plug", "socket", "20"),
    Connector("C3", "Bulkhead, engine side", BULKHEAD, "receptacle", "pin", "16"),
    Connector("C4", "Bulkhead, cab side", BULKHEAD, "plug", "socket", "16", plugs_into="C3"),
    Connector("C5", "Crank sensor", Grid(1, 3), "plug", "socket", "20"),
    Connector("C6", "Throttle sensor", Grid(1, 3), "plug", "socket", "20"),
    Connector("C7", "Coolant sensor", Grid(1, 2), "plug", "socket", "20", key="left"),
    Connector("C8", "Injector 1", Grid(1, 2), "plug", "socket", "20", key="right"),
    Connector("C9", "Injector 2", Grid(1, 2), "plug", "socket", "20", key="right"),
    Connector("C10", "Injector 3", Grid(1, 2), "plug", "socket", "20", key="right"),
    Connector("C11", "Injector 4", Grid(1, 2), "plug", "socket", "20", key="right"),
    Connector("C12", "Coil pack", Grid(1, 3), "plug", "socket", "16"),
    Connector("C13", "Fuel pump", Grid(1, 2, letters=True), "plug", "socket", "12"),
    Connector("C14", "Oxygen sensor", Grid(1, 4), "plug", "socket", "20"),
    Connector("C15", "Idle valve", Grid(1, 2), "plug", "socket", "20", key="right"),
    Connector("C16", "Intake air sensor", Grid(1, 2), "plug", "socket", "20", key="left"),
    Connector("C17", "Spare, far end", Grid(1, 2), "receptacle", "pin", "20", lever="top"),
)

FUSES = (
    Fuse("F1", "Main fuse", 80, "bolt-down"),
    Fuse("F2", "Engine", 25),
    Fuse("F3", "Injectors", 10),
    Fuse("F4", "Coils", 15),
    Fuse("F5", "Fuel pump", 20),
    Fuse("F6", "Key switch", 10),
    Fuse("F7", "Cab lamps and heater", 15),
    Fuse("F8", "Charging", 150, "bolt-down"),
    Fuse("F9", "Engine computer", 10),
    Fuse("F10", "Fans", 30),
    Fuse("F11", "Horn", 10),
    Fuse("F12", "Brake lamps", 10),
    Fuse("F13", "Cluster", 5),
    Fuse("F14", "Diagnosis", 5),
    Fuse("F15", "Wipers", 10),
)
SPLICES = (
    Splice("S1", "Injector supply"),
    Splice("S2", "Sensor return", "soldered"),
    Splice("S3", "ECU earths"),
    Splice("S4", "Cluster feed"),
    Splice("S5", "Cluster earth"),
    Splice("S6", "Brake lamp feed"),
)
EARTHS = (EarthPoint("E1", "Engine block, rear left"), EarthPoint("E2", "Cab floor, by the heater"))
DEVICES = (
    Device("D1", "Battery", "battery", ("+", "-")),
    Device(
        "D2",
        "Alternator, 120 A",
        "alternator",
        ("B+", "L"),
        case="E1",
        values=(("most A", 120.0),),
    ),
    Device("D3", "Starter", "starter", ("30", "50"), case="E1"),
    Device(
        "D4",
        "Key switch",
        "switch",
        ("30", "15", "50", "75"),
        (("30", "15"), ("30", "50"), ("30", "75")),
    ),
    Device("D5", "Fuse box stud", "bus bar", ("M8",)),
    Device("D6", "Charge lamp", "warning lamp", ("1", "2"), values=(("ohm", 60.0),)),
    Device("D7", "Lamp switch", "switch", ("30", "56", "58"), (("30", "56"), ("30", "58"))),
    Device("D8", "Headlamps", "lamp", ("56", "31")),
    Device("D9", "Blue beacon", "lamp", ("+", "31")),
    Device("D10", "Heater blower", "motor", ("M", "31")),
    Device(
        "K1",
        "Main relay",
        "relay",
        ("30", "87", "86", "85"),
        (("30", "87"),),
        suppression="resistor",
    ),
    Device("K2", "Fuel pump relay", "relay", ("30", "87", "86", "85"), (("30", "87"),)),
    Device(
        "D11",
        "Engine computer",
        "controller",
        plug="C2",
        values=(("A", 0.3), ("pulses a turn", 2.0)),
        supplies=("52",),
        earths=("68", "69", "70", "24"),  # sensor return, joined inside
        outputs=(
            Output("2"),
            Output("3", "pulls low", "first seconds and turning"),
            *(
                Output(cavity, "pulls low", "turning")
                for cavity in ("5", "6", "7", "8", "11", "12", "41")
            ),
            Output("22", "5 V"),
            Output("34", "pulls low", "running"),
        ),
        needed=True,
    ),
    *(
        Device(f"D{n + 11}", f"Injector {n}", "injector", ("1", "2"), plug=f"C{n + 7}", needed=True)
        for n in (1, 2, 3, 4)
    ),
    Device("D16", "Coil A", "coil", ("1", "2"), plug="C12", needed=True),
    Device("D17", "Coil B", "coil", ("1", "3"), plug="C12", needed=True),
    Device("D18", "Fuel pump", "motor", ("A1", "A2"), plug="C13", needed=True),
    Device(
        "D19",
        "Battery isolator",
        "isolator",
        ("1", "2", "3", "4"),
        (("1", "2"), ("3", "4")),
    ),
    Device("D20", "Fan, left", "motor", ("+", "-")),
    Device("D21", "Fan, right", "motor", ("+", "-")),
    Device(
        "D22",
        "Coolant gauge",
        "gauge",
        ("+", "S", "-"),
        curve=(
            (20.0, 612.0),
            (40.0, 299.0),
            (60.0, 154.0),
            (80.0, 87.0),
            (100.0, 54.0),
            (120.0, 37.0),
        ),
    ),
    Device("D23", "Tank gauge", "gauge", ("+", "S", "-")),
    Device("D24", "Tachometer", "gauge", ("+", "S", "-"), values=(("pulses a turn", 3.0),)),
    Device("D25", "Oil lamp", "warning lamp", ("+", "-")),
    Device(
        "D26",
        "Oil pressure switch",
        "switch",
        ("1",),
        positions=(Position("standing", (("1", "case"),)), Position("running")),
        case="E1",
    ),
    Device(
        "D27",
        "Coolant sender",
        "thermistor",
        ("1",),
        case="E1",
        curve=(
            (20.0, 600.0),
            (40.0, 287.0),
            (60.0, 142.0),
            (80.0, 75.0),
            (100.0, 42.0),
            (120.0, 25.0),
        ),
    ),
    Device("D28", "Tank sender", "sensor", ("1", "2"), values=(("ohm", 90.0),)),
    Device("D29", "Diagnostic plug", "diagnostic plug", ("16", "4", "5", "6", "14")),
    Device("D31", "Cluster node", "network node", ("high", "low"), values=(("ohm", 120.0),)),
    Device("D32", "Hour counter node", "network node", ("high", "low")),
    Device("D33", "Horn", "load", ("+", "-"), values=(("A", 4.0),)),
    Device(
        "D34",
        "Horn push",
        "switch",
        ("1", "2"),
        positions=(Position("released"), Position("pressed", (("1", "2"),), momentary=True)),
    ),
    Device("D35", "Wiper motor", "motor", ("53", "31")),
    Device(
        "D36",
        "Wiper switch",
        "switch",
        ("30", "53"),
        positions=(Position("off"), Position("on", (("30", "53"),))),
    ),
    Device(
        "D37",
        "Brake pedal switch",
        "switch",
        ("1", "2"),
        positions=(Position("up"), Position("down", (("1", "2"),))),
    ),
    Device("D38", "Brake lamp, left", "lamp", ("54", "31")),
    Device("D39", "Brake lamp, right", "lamp", ("54", "31")),
    Device(
        "D40",
        "Fan thermostat",
        "switch",
        ("1", "2"),
        positions=(
            Position("cold"),
            Position("warm", (("1", "case"),)),
            Position("hot", (("1", "case"), ("2", "case"))),
        ),
        case="E1",
    ),
    Device("D41", "Oxygen sensor heater", "heater", ("1", "2"), plug="C14", values=(("A", 1.5),)),
    Device("D42", "Idle valve", "solenoid", ("1", "2"), plug="C15", values=(("A", 0.8),)),
    Device("D43", "Crank sensor", "pickup", ("1", "2", "3"), plug="C5"),
    Device("D44", "Throttle sensor", "sensor", ("1", "2", "3"), plug="C6"),
    Device("D45", "Coolant sensor", "thermistor", ("1", "2"), plug="C7"),
    Device(
        "D46",
        "Intake air sensor",
        "thermistor",
        ("1", "2"),
        plug="C16",
        values=(("ohm", 2500.0),),
    ),
    *(
        Device(
            code,
            f"{name} relay",
            "relay",
            ("30", "87", "86", "85"),
            (("30", "87"),),
            suppression=suppression,
        )
        for code, name, suppression in (
            ("K3", "Injector", "resistor"),
            ("K4", "Left fan", "resistor"),
            ("K5", "Right fan", "resistor"),
            ("K6", "Horn", ""),
        )
    ),
)

# What lies together, by the numbers of the wires: where, under what, and which.
BUNDLES = (
    (Bundle("Engine", "", "split tube"), (*range(16, 36), 51, 54, 92, 98, 128, *range(133, 137))),
    (Bundle("Cab", "cabin", "tape"), (48, 49, 50, 52, 53, 56, 57, 67, 91, 95, 97, 101, 112, 122)),
    (Bundle("Rear", "tank", "split tube"), (45, 46, 93, 94, *range(124, 128))),
    (Bundle("Oxygen sensor", "exhaust", "heat sleeve"), tuple(range(129, 133))),
)

# from, to, function, colour, size, insulation, length m, current A, use, note
WIRES = """
D19 2  |F1 in |Battery to main fuse      |RD   |25 mm2  |SGX |0.35|60  |        |
D19 2  |D3 30 |Starter cable             |RD   |50 mm2  |SGX |1.4 |180 |starter |
D1 -   |E1    |Battery earth             |BK   |70 mm2  |SGX |0.8 |180 |starter |
F1 out |D5 M8 |Main fuse to fuse box     |RD   |25 mm2  |SGX |0.9 |60  |        |
D19 2  |F8 in |Battery to charging fuse  |RD   |35 mm2  |SGX |0.3 |110 |charging|
F8 out |D2 B+ |Alternator output         |RD   |35 mm2  |SGX |1.1 |110 |charging|
D5 M8  |F2 in |Fuse box bar              |RD   |16 mm2  |C125|0.05|60  |        |bar link
F2 in  |F5 in |Fuse box bar              |RD   |16 mm2  |C125|0.05|55  |        |bar link
F5 in  |F6 in |Fuse box bar              |RD   |16 mm2  |C125|0.05|46  |        |bar link
F6 in  |F7 in |Fuse box bar              |RD   |16 mm2  |C125|0.05|40  |        |bar link
F2 out |K1 30 |Main relay feed           |RD/BU|4 mm2   |C125|0.4 |18  |ecu     |
F9 out |C2 1  |ECU supply                |RD/WH|1.5 mm2 |C125|1.2 |4   |ecu     |
F6 out |C2 52 |ECU permanent supply      |RD   |0.75 mm2|C125|1.3 |0.1 |ecu     |
K1 87  |F3 in |Injector fuse feed        |RD/WH|2.5 mm2 |C125|0.2 |5   |        |
K1 87  |F4 in |Coil fuse feed            |RD/WH|2.5 mm2 |C125|0.2 |9   |        |
K3 87  |S1    |Injector supply           |RD/YE|1.5 mm2 |C125|1.5 |5   |        |
S1     |C8 1  |Injector 1 supply         |RD/YE|0.75 mm2|C125|0.35|1.3 |        |
S1     |C9 1  |Injector 2 supply         |RD/YE|0.75 mm2|C125|0.25|1.3 |        |
S1     |C10 1 |Injector 3 supply         |RD/YE|0.75 mm2|C125|0.25|1.3 |        |
S1     |C11 1 |Injector 4 supply         |RD/YE|0.75 mm2|C125|0.35|1.3 |        |
C8 2   |C2 5  |Injector 1                |WH/BK|0.75 mm2|C125|1.6 |1.3 |        |
C9 2   |C2 6  |Injector 2                |WH/RD|0.75 mm2|C125|1.5 |1.3 |        |
C10 2  |C2 7  |Injector 3                |WH/BU|0.75 mm2|C125|1.5 |1.3 |        |
C11 2  |C2 8  |Injector 4                |WH/BU|0.75 mm2|C125|1.6 |1.3 |        |
F4 out |C12 1 |Coil supply               |GN   |1.5 mm2 |C125|1.4 |9   |        |
C12 2  |C2 11 |Coil A driver             |BN/YE|1 mm2   |C125|1.5 |5   |        |
C12 3  |C2 12 |Coil B driver             |BN/WH|1 mm2   |C125|1.5 |5   |        |
C5 1   |C2 15 |Crank sensor signal       |YE   |0.5 mm2 |C125|1.8 |0.01|sensor  |twisted
C5 2   |C2 16 |Crank sensor return       |YE/BK|0.5 mm2 |C125|1.8 |0.01|sensor  |twisted
C6 1   |C2 22 |Throttle 5 V reference    |RD/YE|0.5 mm2 |C125|1.2 |0.01|sensor  |
C6 2   |C2 23 |Throttle sensor signal    |BU/WH|0.5 mm2 |C125|1.2 |0.01|sensor  |
C6 3   |S2    |Throttle sensor return    |BK/YE|0.5 mm2 |C125|0.7 |0.01|sensor  |
C7 1   |C2 27 |Coolant sensor signal     |BU/YE|0.5 mm2 |C125|1.1 |0.01|sensor  |
C7 2   |S2    |Coolant sensor return     |BK/YE|0.5 mm2 |C125|0.6 |0.01|sensor  |
S2     |C2 24 |Sensor return             |BK/YE|0.5 mm2 |C125|0.5 |0.02|sensor  |
C2 68  |S3    |Power earth 1             |BK   |1 mm2   |C125|0.3 |6   |ecu     |
C2 69  |S3    |Power earth 2             |BK   |1 mm2   |C125|0.3 |6   |ecu     |
S3     |E1    |ECU earths                |BK   |4 mm2   |C125|0.9 |17  |ecu     |
K1 85  |C2 2  |Main relay driver         |GN/RD|0.5 mm2 |C125|1.3 |0.2 |        |
C3 2   |K1 86 |Main relay coil           |BK/RD|0.75 mm2|C125|0.7 |0.2 |        |
F5 out |K2 30 |Pump relay feed           |RD/BK|2.5 mm2 |C125|0.3 |9   |pump    |
K2 87  |C3 6  |Fuel pump feed, engine bay|WH/VT|0.75 mm2|C125|0.8 |9   |pump    |donor's
F9 out |K2 86 |Pump relay coil           |RD/WH|0.75 mm2|C125|0.2 |0.2 |        |
K2 85  |C2 3  |Pump relay driver         |GN/WH|0.5 mm2 |C125|1.3 |0.2 |        |
C4 6   |C13 A1|Fuel pump feed, to tank   |WH/VT|2 mm2   |C125|3.6 |9   |pump    |
C13 A2 |E2    |Fuel pump earth           |BK   |2.5 mm2 |C125|1.4 |9   |pump    |
F6 out |C3 1  |Key switch feed           |RD   |1.5 mm2 |C125|0.8 |7   |        |
C4 1   |D4 30 |Key switch feed, cab      |RD   |1.5 mm2 |B100|0.9 |7   |        |
D4 15  |C4 2  |Key on, run and crank     |BK/RD|0.75 mm2|B100|0.9 |0.2 |        |
D4 50  |C4 3  |Start                     |VT   |1.5 mm2 |B100|0.9 |8   |        |
C3 3   |D3 50 |Start, engine bay         |VT   |1.5 mm2 |C125|1.6 |8   |        |
D4 15  |D6 1  |Charge lamp feed          |BK/RD|0.75 mm2|B100|0.4 |0.2 |        |
D6 2   |C4 4  |Charge lamp               |BU   |0.75 mm2|B100|1.0 |0.2 |        |
C3 4   |D2 L  |Charge lamp, engine bay   |BU   |0.75 mm2|C125|1.5 |0.2 |        |
F7 out |C3 5  |Cab feed                  |RD/GN|2 mm2   |C125|0.8 |9   |        |
C4 5   |D7 30 |Lamp switch feed          |RD/GN|2 mm2   |GPT |1.2 |9   |lighting|old loom, repaired
C4 5   |D10 M |Heater blower             |OG/BK|0.75 mm2|GPT |1.1 |12  |        |twisted in
D7 56  |D8 56 |Headlamps                |WH   |2.5 mm2 |GPT |2.2 |9   |lighting|
D8 31  |E2    |Headlamp earth           |BN   |2.5 mm2 |GPT |1.3 |9   |lighting|
D10 31 |E2    |Heater blower earth       |BN   |2.5 mm2 |GPT |0.5 |12  |        |
D1 +   |D9 +  |Blue beacon               |GN/YE|1.5 mm2 |GPT |3.1 |4   |lighting|added later
D9 31  |E2    |Blue beacon earth         |BN   |1.5 mm2 |GPT |1.6 |4   |lighting|
D7 58  |loose |Panel lamps               |GY/BK|1.5 mm2 |B100|0.6 |1   |lighting|found cut
K1 87  |F9 in |ECU fuse feed             |RD/WH|2.5 mm2 |C125|0.2 |4   |        |
D1 +   |D19 1 |Battery to isolator       |RD   |50 mm2  |SGX |0.25|180 |starter |
F3 out |K3 30 |Injector relay feed       |RD/YE|1.5 mm2 |C125|0.3 |5   |        |
D4 75  |C4 7  |Injector relay coil, cab  |BU/RD|0.75 mm2|C125|0.9 |0.2 |        |fed from accessory
C3 7   |K3 86 |Injector relay coil       |BU/RD|0.75 mm2|C125|0.7 |0.2 |        |
K3 85  |E1    |Injector relay earth      |BK   |0.75 mm2|C125|0.8 |0.2 |        |
F7 in  |F10 in|Fuse box bar              |RD   |16 mm2  |C125|0.05|25  |        |bar link
F10 out|K4 30 |Left fan feed             |RD/VT|2.5 mm2 |C125|0.3 |9   |pump    |
F10 out|K5 30 |Right fan feed            |RD/VT|2.5 mm2 |C125|0.3 |9   |pump    |
K4 87  |D20 + |Left fan                  |VT/WH|2.5 mm2 |C125|1.4 |9   |pump    |
K5 87  |D21 + |Right fan                 |VT/BK|2.5 mm2 |C125|1.8 |9   |pump    |
D20 -  |E1    |Left fan earth            |BK   |2.5 mm2 |C125|1.1 |9   |pump    |
D21 -  |E1    |Right fan earth           |BK   |2.5 mm2 |C125|1.5 |9   |pump    |
F9 out |K4 86 |Fan relay coils           |RD/WH|0.75 mm2|C125|0.2 |0.4 |        |
K4 86  |K5 86 |Right fan relay coil      |RD/WH|0.75 mm2|C125|0.1 |0.2 |        |
K4 85  |D40 1 |Left fan switched         |BU/WH|0.75 mm2|C125|1.6 |0.2 |        |
K5 85  |D40 2 |Right fan switched        |BU/BK|0.75 mm2|C125|1.6 |0.2 |        |
D4 75  |F13 in|Cluster fuse feed         |BU/RD|1 mm2   |C125|0.4 |1   |        |
F13 out|S4    |Cluster feed              |BK/VT|0.75 mm2|C125|0.5 |1   |        |
S4     |D22 + |Coolant gauge feed        |BK/VT|0.75 mm2|C125|0.3 |0.2 |        |
S4     |D23 + |Tank gauge feed           |BK/VT|0.75 mm2|C125|0.3 |0.2 |        |
S4     |D24 + |Tachometer feed           |BK/VT|0.75 mm2|C125|0.4 |0.2 |        |
S4     |D25 + |Oil lamp feed             |BK/VT|0.75 mm2|C125|0.4 |0.2 |        |
D22 -  |S5    |Coolant gauge earth       |BN   |0.75 mm2|C125|0.3 |0.2 |        |
D23 -  |S5    |Tank gauge earth          |BN   |0.75 mm2|C125|0.3 |0.2 |        |
D24 -  |S5    |Tachometer earth          |BN   |0.75 mm2|C125|0.4 |0.2 |        |
S5     |E2    |Cluster earth             |BN   |1 mm2   |C125|0.9 |0.6 |        |
D22 S  |C4 8  |Coolant sender, cab       |BU/YE|0.75 mm2|C125|0.8 |0.02|        |
C3 8   |D27 1 |Coolant sender            |BU/YE|0.75 mm2|C125|1.5 |0.02|        |
D23 S  |D28 1 |Tank sender               |PK   |0.75 mm2|C125|3.2 |0.06|        |
D28 2  |E2    |Tank sender earth         |BN   |0.75 mm2|C125|3   |0.06|        |
D24 S  |C4 9  |Engine speed, cab         |PK/BK|0.75 mm2|C125|0.9 |0.02|        |
C3 9   |C2 48 |Engine speed              |PK/BK|0.5 mm2 |C125|1.2 |0.02|        |
D25 -  |C4 10 |Oil lamp, cab             |GN   |0.75 mm2|C125|0.9 |0.2 |        |
C3 10  |D26 1 |Oil lamp                  |GN   |0.75 mm2|C125|1.4 |0.2 |        |
F10 in |F14 in|Fuse box bar              |RD   |16 mm2  |C125|0.05|4   |        |bar link
F14 out|C3 11 |Diagnosis feed            |RD/GY|0.75 mm2|C125|0.8 |0.5 |        |
C4 11  |D29 16|Diagnosis feed, cab       |RD/GY|0.75 mm2|C125|0.6 |0.5 |        |
D29 4  |E2    |Diagnosis earth           |BN   |0.75 mm2|C125|0.9 |0.5 |        |
D29 5  |E2    |Diagnosis signal earth    |BN/WH|0.75 mm2|C125|0.9 |0.1 |        |
D31 high|D32 high|Network high           |YE   |0.5 mm2 |C125|1.2 |0.01|sensor  |twisted
D31 low|D32 low|Network low              |GN   |0.5 mm2 |C125|1.2 |0.01|sensor  |twisted
D31 high|D29 6|Network high, diagnosis   |YE   |0.5 mm2 |C125|0.4 |0.01|sensor  |twisted
D31 low|D29 14|Network low, diagnosis    |GN   |0.5 mm2 |C125|0.4 |0.01|sensor  |twisted
F14 in |F11 in|Fuse box bar              |RD   |16 mm2  |C125|0.05|5   |        |bar link
F11 out|K6 30 |Horn relay feed           |BK/YE|1.5 mm2 |C125|0.3 |4   |        |
F11 out|K6 86 |Horn relay coil           |BK/YE|0.75 mm2|C125|0.3 |0.2 |        |
K6 85  |C3 12 |Horn push                 |BN/BU|0.75 mm2|C125|0.7 |0.2 |        |
C4 12  |D34 1 |Horn push, cab            |BN/BU|0.75 mm2|C125|1   |0.2 |        |
D34 2  |E2    |Horn push earth           |BN   |0.75 mm2|C125|0.9 |0.2 |        |
K6 87  |D33 + |Horn                      |BK/YE|1.5 mm2 |C125|1.2 |4   |        |
D33 -  |E1    |Horn earth                |BK   |1.5 mm2 |C125|0.8 |4   |        |
D4 75  |F15 in|Wiper fuse feed           |BU   |1.5 mm2 |C125|0.4 |4   |        |
F15 out|D36 30|Wiper switch feed         |BK/GN|1.5 mm2 |C125|0.5 |4   |        |
D36 53 |D35 53|Wiper motor               |BK/GN|2.5 mm2 |C125|1.8 |4   |        |
D35 31 |E2    |Wiper motor earth         |BN   |1.5 mm2 |C125|1.2 |4   |        |
F11 in |F12 in|Fuse box bar              |RD   |16 mm2  |C125|0.05|4   |        |bar link
F12 out|C3 13 |Brake lamp feed           |RD/WH|1.5 mm2 |C125|0.8 |3.5 |        |
C4 13  |D37 1 |Brake pedal switch        |RD/WH|1.5 mm2 |C125|1.1 |3.5 |        |
D37 2  |S6    |Brake lamps               |BK/RD|1.5 mm2 |C125|1.6 |3.5 |        |
S6     |D38 54|Brake lamp, left          |BK/RD|1 mm2   |C125|2.4 |1.75|        |
S6     |D39 54|Brake lamp, right         |BK/RD|1 mm2   |C125|2.8 |1.75|        |
D38 31 |E2    |Brake lamp earth, left    |BN   |1 mm2   |C125|2.2 |1.75|        |
D39 31 |E2    |Brake lamp earth, right   |BN   |1 mm2   |C125|2.6 |1.75|        |
C5 3   |C2 17 |Crank sensor screen       |BK   |0.5 mm2 |C125|1.8 |    |screen  |
C14 1  |F9 out|Oxygen heater supply      |RD/WH|0.75 mm2|C125|1.5 |1.5 |        |
C14 2  |C2 34 |Oxygen heater driver      |WH/OG|0.75 mm2|C125|1.6 |1.5 |        |
C14 3  |C2 33 |Oxygen sensor signal      |GY   |0.5 mm2 |C125|1.6 |0.01|sensor  |
C14 4  |S2    |Oxygen sensor return      |BK/YE|0.5 mm2 |C125|1   |0.01|sensor  |
C15 1  |F9 out|Idle valve supply         |RD/WH|0.75 mm2|C125|1.4 |0.8 |        |
C15 2  |C2 41 |Idle valve driver         |VT   |0.75 mm2|C125|1.3 |0.8 |        |
C16 1  |C2 28 |Intake air sensor signal  |BU/RD|0.5 mm2 |C125|1.2 |0.01|sensor  |
C16 2  |S2    |Intake air sensor return  |BK/YE|0.5 mm2 |C125|0.7 |0.01|sensor  |
C2 66  |S3    |Case shield               |BK   |0.5 mm2 |C125|0.3 |0.01|        |
D32 high|C17 1|Network high, far end     |YE   |0.5 mm2 |C125|1.3 |0.01|sensor  |twisted
D32 low|C17 2 |Network low, far end      |GN   |0.5 mm2 |C125|1.3 |0.01|sensor  |twisted
"""

# wire, ohms (None is open), day and time, note
READINGS = (
    ("W12", 0.23, "2026-11-02T18:10:00+01:00", ""),
    ("W21", 0.25, "2026-11-02T18:14:00+01:00", ""),
    ("W22", 0.25, "2026-11-02T18:15:00+01:00", ""),
    ("W28", 0.28, "2026-11-02T18:21:00+01:00", ""),
    ("W29", 0.29, "2026-11-02T18:22:00+01:00", ""),
    ("W36", 0.2, "2026-11-04T17:40:00+01:00", ""),
    ("W50", 0.23, "2026-11-04T17:52:00+01:00", ""),
    ("W56", 1.9, "2026-11-04T18:03:00+01:00", "old repair under tape"),
    ("W59", None, "2026-11-04T18:09:00+01:00", "green at the lamp end"),
)


# The cab loom as found. node: name, state, plugs into, connector, ways, mark
NODES = """
N1  | Bulkhead plug            | found   | engine side of the bulkhead | C4 | 16 | tape, 5
N2  | Behind the dash, left    | found   |                             |    |    |
N3  | Key switch               | found   | key switch                  |    | 4  |
N4  | Lamp switch              | found   | lamp switch                 |    | 3  |
N5  | Dash centre              | found   |                             |    |    |
N6  | Instrument cluster       | found   | cluster                     |    | 14 | CL
N7  | Charge lamp              | found   | charge lamp                 |    | 2  |
N8  | Heater corner            | found   |                             |    |    |
N9  | Heater blower            | found   | blower                      |    | 2  |
N10 | Cab floor earth          | found   | stud E2                     |    | 1  |
N11 | Right pillar             | found   |                             |    |    |
N12 | Headlamp, right         | found   | lamp                        |    | 3  |
N13 | Wiper motor              | found   | wiper                       |    | 4  |
N14 | Roof rail                | found   |                             |    |    |
N15 | Blue beacon              | found   | beacon                      |    | 2  |
N16 | Cab lamp                 | found   | lamp                        |    | 2  |
N17 | Siren relay              | cut off |                             |    |    | red tape
N18 | Left sill                | found   |                             |    |    |
N19 | Headlamp, left          | found   | lamp                        |    | 3  |
N20 | Tail link plug           | missing | tail loom                   |    | 7  |
N21 | Tank level sender        | found   | sender                      |    | 2  |
N22 | Radio shelf              | unknown |                             |    |    |
"""

# from, to, length, covering, diameter mm, ties, clips, grommet
SEGMENTS = """
N1  N2  | 480 mm | braided sleeve | 18 | 4 | 2 | bulkhead
N2  N3  | 350 mm | cloth tape     | 9  | 2 | 0 |
N2  N4  | 420 mm | cloth tape     | 8  | 2 | 0 |
N2  N5  | 400 mm | braided sleeve | 15 | 3 | 1 |
N5  N6  | 250 mm | cloth tape     | 11 | 2 | 0 |
N5  N7  | 12 in  | cloth tape     | 5  | 1 | 0 |
N5  N22 | 300 mm |                | 5  | 0 | 0 |
N5  N8  | 500 mm | braided sleeve | 12 | 3 | 2 |
N8  N9  | 11 in  | PVC tube       | 6  | 1 | 0 |
N8  N10 | 350 mm |                | 6  | 1 | 0 |
N8  N11 | 600 mm | PVC tube       | 10 | 2 | 2 |
N11 N12 | 1.1 m  | PVC tube       | 8  | 3 | 3 | wing
N11 N13 | 450 mm | PVC tube       | 7  | 2 | 1 |
N11 N14 | 900 mm | PVC tube       | 7  | 0 | 3 |
N14 N15 | 700 mm | PVC tube       | 6  | 0 | 2 | roof
N14 N16 | 400 mm |                | 4  | 0 | 1 |
N14 N17 | 350 mm |                | 4  | 0 | 0 |
N2  N18 | 900 mm | PVC tube       | 13 | 3 | 3 |
N18 N19 | 1 m    | PVC tube       | 8  | 3 | 2 | wing
N18 N20 | 2.4 m  | PVC tube       | 10 | 6 | 6 | floor
N18 N21 | 1.9 m  | PVC tube       | 6  | 5 | 4 |
"""

# from, to, colour, as measured, family, role, fused, function, left m
FOUND = """
N1 N3   | RD    | copper 1.65 mm | thin PVC | supply | yes | Key switch feed
N3 N1   | BK/RD | copper 1.15 mm | thin PVC | supply | yes | Key on
N3 N1   | VT    | copper 1.65 mm | thin PVC | supply | yes | Start
N1 N4   | RD/GN | 19 x 0.36 mm | rubber and cotton | supply | yes | Lamp switch feed
N4 N12  | WH    | 19 x 0.36 mm | rubber and cotton | supply | yes | Headlamp, right
N4 N19  | WH    | 19 x 0.36 mm | rubber and cotton | supply | yes | Headlamp, left
N4 N12  | YE    | 19 x 0.36 mm | rubber and cotton | supply | yes | Main beam, right
N4 N19  | YE    | 19 x 0.36 mm | rubber and cotton | supply | yes | Main beam, left
N4 N6   | GY/BK | copper 1.15 mm | rubber and cotton | supply | yes | Panel lamps
N4 N20  | GY    | copper 1.15 mm | rubber and cotton | supply | yes | Tail lamps
N1 N7   | BU    | copper 1.15 mm | thin PVC | signal | yes | Charge lamp
N3 N7   | BK/RD | copper 1.15 mm | thin PVC | supply | yes | Charge lamp feed
N1 N9   | OG/BK | copper 1.15 mm | thin PVC | supply | no  | Heater blower
N9 N10  | BN    | copper 2.05 mm | thin PVC | earth  | no  | Heater blower earth
N12 N10 | BN    | copper 2.05 mm | rubber and cotton | earth | no | Headlamp earth, right
N19 N10 | BN    | copper 2.05 mm | rubber and cotton | earth | no | Headlamp earth, left
N1 N15  | GN/YE | copper 1.65 mm | thick PVC | supply | no | Blue beacon
N15 N10 | BN    | copper 1.65 mm | thick PVC | earth  | no | Blue beacon earth
N3 N13  | BK/GN | copper 1.65 mm | thin PVC | supply | yes | Wiper feed
N13 N10 | BN    | copper 1.65 mm | thin PVC | earth  | no  | Wiper earth
N3 N13  | BK/WH | copper 1.15 mm | thin PVC | supply | yes | Wiper park
N6 N13  | BU/GN | copper 1.15 mm | thin PVC | signal | yes | Wiper slow
N6 N13  | BU/BK | copper 1.15 mm | thin PVC | signal | yes | Wiper fast
N3 N6   | BK/RD | copper 1.15 mm | thin PVC | supply | yes | Cluster feed
N6 N10  | BN    | copper 1.15 mm | thin PVC | earth  | no  | Cluster earth
N21 N6  | PK    | outside 2.1 mm | thin PVC | sensor | yes | Tank level
N21 N10 | BN/WH | outside 2.1 mm | thin PVC | sensor | no  | Tank level return
N1 N6   | BU/YE | copper 0.95 mm | thin PVC | sensor | yes | Coolant temperature
N1 N6   | GN    | copper 0.95 mm | thin PVC | sensor | yes | Oil pressure
N1 N6   | PK/BK | copper 0.95 mm | thin PVC | signal | yes | Engine speed
N6 N20  | GN/WH | copper 1.15 mm | rubber and cotton | supply | yes | Right indicator, rear
N6 N20  | GN/RD | copper 1.15 mm | rubber and cotton | supply | yes | Left indicator, rear
N6 N12  | GN/WH | copper 1.15 mm | thin PVC | supply | yes | Right indicator, front
N6 N19  | GN/RD | copper 1.15 mm | thin PVC | supply | yes | Left indicator, front
N1 N20  | BK/YE | copper 1.15 mm | thin PVC | supply | yes | Brake lamps
N1 N20  | BK/BU | copper 1.15 mm | thin PVC | supply | yes | Reversing lamp
N20 N10 | BN    | copper 1.65 mm | thin PVC | earth  | no  | Tail earth
N1 N16  | RD/YE | copper 1.15 mm | thin PVC | supply | yes | Cab lamp feed
N16 N10 | BN    | copper 1.15 mm | thin PVC | earth  | no  | Cab lamp earth
N1 N22  | RD    | copper 1.15 mm | thin PVC | supply | yes | Radio feed
N22 N10 | BN    | copper 1.15 mm | thin PVC | earth  | no  | Radio earth
N22 N14 | BK    | outside 3.0 mm | thick PVC | signal | yes | Aerial lead
N17     | PK/BK | copper 0.95 mm | thin PVC | unknown | | | 0.3
N17     | GN/RD | copper 0.8 mm | thin PVC | unknown | | | 0.3
N3 N22  | BK/RD | copper 1.15 mm | thin PVC | supply | yes | Radio, key on
N6 N16  | GY    | copper 1.15 mm | thin PVC | signal | yes | Door switch
"""

# on, kind, grade, at m, note
FAULTS = """
L17 | burnt            | 4 | 1.6 | hard and brown from the roof to the dash
L4  | crumbling        | 4 |     | falls off when bent
L43 | cut              | 3 | 0.3 | cut with pliers, red tape
L44 | cut              | 3 | 0.3 | cut with pliers, red tape
L26 | bad repair       | 3 | 1.2 | twisted and taped near the sill
L13 | melted together  | 4 | 0.9 | stuck to its neighbour at the heater
L28 | tarnished        | 1 | 0.1 | dull at the bulkhead
L37 | green copper     | 3 | 2.0 | green at the floor grommet
B18 | sleeve gone      | 2 | 0.4 | tube split for a hand's breadth
N19 | bad terminal     | 3 |     | blade broken off
N6  | cracked housing  | 2 |     | lock tab gone
L35 | chafed through   | 3 | 1.0 | bare at the sill clip
L45 | wrong colour extension | 2 | 0.5 | red wire spliced on
B5  | overspray        | 1 |     | grey paint
"""


# time, kind, stage, about, text, operation, quantity, minutes
LOG = """
2026-10-31T09:10|clock on |Survey |   |                           |                       |   |
2026-10-31T09:40|note     |Survey |N17|red tape over two cut wires|                       |   |
2026-10-31T10:30|note     |Survey |L17|brown from roof to dash    |                       |   |
2026-10-31T11:20|done     |Survey |B14|                           |open and close covering|0.9|24
2026-10-31T11:45|clock off|Survey |   |                           |                       |   |
2026-11-02T17:50|clock on |Proving|   |                           |                       |   |
2026-11-02T18:40|clock off|Proving|   |                           |                       |   |
"""


def log() -> tuple[LogEntry, ...]:
    """Return the first days of the log."""
    entries = []
    for line in LOG.strip().splitlines():
        cells = [cell.strip() for cell in line.split("|")]
        at, kind, stage, about, text, operation, quantity, minutes = cells
        entries.append(
            LogEntry(
                f"{at}:00+01:00",
                kind,
                stage,
                about,
                text,
                "Mirel",
                operation,
                float(quantity or 0),
                float(minutes or 0),
            )
        )
    return tuple(entries)


# kind, name, size, insulation, colour, bore mm, amount, price, where
STOCK = """
wire     |                    | 1 mm2    | C125 | RD    |    | 25  | 0.55 | drawer 2
wire     |                    | 1 mm2    | C125 | BK    |    | 40  | 0.55 | drawer 2
wire     |                    | 0.75 mm2 | C125 | GN    |    | 12  | 0.42 | drawer 2
wire     |                    | 2 mm2    | C125 | GN/YE |    | 6   | 0.95 | drawer 3
wire     |                    | 2.5 mm2  | C125 | WH    |    | 30  | 1.10 | drawer 3
wire     |                    | 2.5 mm2  | C125 | BN    |    | 9   | 1.10 | drawer 3
wire     |                    | 4 mm2    | C125 | BN    |    | 2   | 1.80 | drawer 3
terminal | blade, 6.3 mm      |          |      |       |    | 60  | 0.12 | tin 4
splice   | crimp, with sleeve |          |      |       |    | 4   | 0.30 | tin 5
sleeve   | braided            |          |      |       | 18 | 3   | 2.40 | shelf
sleeve   | PVC tube           |          |      |       | 8  | 6   | 0.60 | shelf
sleeve   | PVC tube           |          |      |       | 12 | 4   | 0.85 | shelf
tape     | cloth              |          |      |       |    | 50  | 0.20 | shelf
"""


def stock() -> tuple[StockItem, ...]:
    """Return what lies on the shelf."""
    items = []
    for number, line in enumerate(STOCK.strip().splitlines(), start=1):
        kind, name, size, insulation, colour, bore, amount, price, where = (
            cell.strip() for cell in line.split("|")
        )
        items.append(
            StockItem(
                f"T{number}",
                kind,
                name,
                read_size(size) if size else None,
                insulation,
                Colour(*colour.split("/")) if colour else None,
                float(bore) if bore else None,
                float(amount),
                float(price),
                "EUR",
                where,
            )
        )
    return tuple(items)


def found_loom() -> Loom:
    """Return the cab loom as found, read as a user would type it."""

    def rows(text: str) -> list[list[str]]:
        return [[cell.strip() for cell in line.split("|")] for line in text.strip().splitlines()]

    nodes = tuple(
        Node(code, name, state, plugs, connector, int(ways) if ways else None, mark)
        for code, name, state, plugs, connector, ways, mark in rows(NODES)
    )
    segments = []
    for number, row in enumerate(rows(SEGMENTS), start=1):
        ends, length, covering, diameter, ties, clips, *grommet = row
        segments.append(
            Segment(
                f"B{number}",
                *ends.split(),
                read_length_m(length),
                find_covering(covering).key,  # type: ignore[union-attr]
                float(diameter),
                int(ties),
                int(clips),
                grommet[0] if grommet else "",
            )
        )
    wires = []
    for number, row in enumerate(rows(FOUND), start=1):
        ends, colour, seen, kind, role, fused, function, *left = row
        start, _, finish = ends.partition(" ")
        wires.append(
            FoundWire(
                f"L{number}",
                start,
                finish.strip(),
                Colour(*colour.split("/")),
                reckon(seen).metric,
                seen,
                kind,
                role,
                {"yes": True, "no": False}.get(fused),
                "traced" if finish else "presumed",
                function,
                float(left[0]) if left else None,
            )
        )
    faults = tuple(
        Fault(f"X{n}", on, kind, float(at) if at else None, int(grade), note)
        for n, (on, kind, grade, at, note) in enumerate(rows(FAULTS), start=1)
    )
    return Loom(nodes, tuple(segments), tuple(wires), faults)


def write_tables(folder: Path) -> None:
    import openpyxl

    with (folder / "ecu-plug.csv").open("w", newline="", encoding="utf-8") as file:
        writer = csv.writer(file)
        writer.writerow(["Cavity", "Function", "Circuit", "Colour", "Size mm2", "Note"])
        for name in cavities(ECU_GRID):
            writer.writerow([name, *ECU.get(int(name), ("not used", "", "", "", ""))])
    book = openpyxl.Workbook()
    sheet = book.worksheets[0]
    sheet.title = "Engine plug"
    sheet.append(["Kestvik R4, engine plug, 62 ways"])
    sheet.append(["Pin", "Description", "Circuit", "Colour", "mm²"])
    for name in cavities(DONOR_GRID):
        function, circuit, colour, size = DONOR.get(int(name), ("not used", "", "", ""))
        sheet.append([int(name), function, circuit, colour, float(size) if size else None])
    book.save(folder / "kestvik-donor-plug.xlsx")


def write_photos(folder: Path) -> tuple[Photo, ...]:
    """Write the drawn pictures, and return what is said of them."""
    place = folder / "photos"
    place.mkdir(exist_ok=True)
    for old in place.iterdir():
        old.unlink()
    made = demo_photos.photos()
    for picture, photo in made:
        (folder / photo.file).write_bytes(picture.data)
    return tuple(photo for _, photo in made)


def build(folder: Path) -> Job:
    """Build the job from the parts above and the tables in the folder, read as a user would."""
    job = Job(
        "demo-marten",
        "Marten fire tender",
        "Kestvik R4 swap",
        Settings(measured_by="Mirel", hour_price=48),
        CONNECTORS,
        FUSES,
        SPLICES,
        EARTHS,
        DEVICES,
    )
    connectors = []
    for connector in job.connectors:
        name = {"C1": "kestvik-donor-plug.xlsx", "C2": "ecu-plug.csv"}.get(connector.code)
        if name:
            raw = read_raw_table(folder / name)
            known = frozenset(cavities(connector.grid))
            reading = read_table(raw, find_columns(raw), known=known)
            assert reading.count("fine") == len(known), reading
            pins = reading.pins(frozenset(row.number for row in reading.rows))
            connector = Connector(
                **{field: getattr(connector, field) for field in connector.__struct_fields__}
                | {"pins": pins, "pinout_from": name}
            )
        connectors.append(connector)
    network = Network(job)
    wires = []
    for number, line in enumerate(WIRES.strip().splitlines(), start=1):
        cells = [cell.strip() for cell in line.split("|")]
        start, finish, function, colour, size, kind, length, load, use, note = cells
        wires.append(
            Wire(
                f"W{number}",
                read_end(start, network),
                read_end(finish, network),
                function,
                "",
                Colour(*colour.split("/")),
                read_size(size),
                kind,
                float(length),
                float(load) if load else None,
                None,
                use,
                note,
                lay_length_mm=LAY_MM if note == "twisted" else None,
                bundle=next((one.name for one, lie in BUNDLES if number in lie), ""),
            )
        )
    by_code = {wire.code: wire for wire in wires}
    readings = tuple(
        Reading(code, "resistance", ohm, by_code[code].ends, at, "Mirel", leads_ohm=0.2, note=note)
        for code, ohm, at, note in READINGS
    )
    return Job(
        job.id,
        job.title,
        job.subtitle,
        job.settings,
        tuple(connectors),
        FUSES,
        SPLICES,
        EARTHS,
        DEVICES,
        tuple(wires),
        (*readings, *other_readings()),
        loom=found_loom(),
        log=log(),
        stock=stock(),
        photos=write_photos(folder),
        bundles=tuple(bundle for bundle, _ in BUNDLES),
        routing=demo_routing.routing(),
        left_out=LEFT_OUT,
    )


LEFT_OUT = (
    LeftOut("automatic gearbox"),
    LeftOut("purge valve", reason="The tank breathes through its cap; its hose is closed off."),
    LeftOut("rear oxygen sensors"),
)
"""What the donor had and the sweeper has not."""


def other_readings() -> tuple[Reading, ...]:
    """Return readings of parts and joints, and the codes that stay because of what is left out."""
    coil = (End("K1", "85"), End("K1", "86"))
    return (
        Reading(
            "",
            "resistance",
            88.2,
            coil,
            "2026-11-04T18:20:00+01:00",
            "Mirel",
            leads_ohm=0.2,
            of="part",
            bench_c=18.0,
        ),
        Reading(
            "",
            "force",
            140.0,
            (End("C2"), End()),
            "2026-11-04T18:40:00+01:00",
            "Mirel",
            of="pull",
            state="0.75 mm², contact 20",
            bench_c=18.0,
        ),
        Reading(
            "",
            "words",
            None,
            (End("D11"),),
            "2026-11-05T18:05:00+01:00",
            "Mirel",
            instrument="stand-in: an engine computer",
            of="codes",
            said="P0141 P0443 P0700",
            bench_c=18.0,
        ),
    )


def main() -> None:
    home = Path(__file__).parent.parent / "src" / "molvik" / "demo"
    folder = Path(sys.argv[1]) if len(sys.argv) > 1 else home
    write_tables(folder)
    job = build(folder)
    for what, on in (("First issue", "2026-10-21"), ("Fuse box 80 mm farther", "2026-11-05")):
        job = given_out(job, "H1", what, on, "Mirel")
    (folder / "marten.json").write_bytes(encode_job(job))
    (folder / "plover.json").write_bytes(encode_job(demo_plover.build()))
    (folder / "heron.json").write_bytes(encode_job(demo_heron.build()))


if __name__ == "__main__":
    main()
