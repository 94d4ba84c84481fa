"""A job of 2,000 wires to measure with."""

from molvik.model.job import Job
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

COLOURS = ("RD", "BK", "WH", "YE", "GN", "BU", "VT", "BN")
SIZES = (0.5, 0.75, 1, 1.5, 2.5, 4)


def large_job(wires: int = 2000) -> Job:
    """Return a job with this many wires between 70-way plugs, every tenth behind a fuse."""
    plugs = []
    for number in range(1, wires // 30 + 2):
        pins = tuple(Pin(str(cavity), f"Function {cavity}") for cavity in range(1, 71))
        plugs.append(
            Connector(f"C{number}", f"Plug number {number}", Grid(5, 14), contact="20", pins=pins)
        )
    fuses = tuple(Fuse(f"F{n}", f"Fuse {n}", 10) for n in range(1, wires // 10 + 1))
    made = [Wire("W1", End("D1", "+"), End("F1", "in"), size=WireSize("metric", 25), length_m=0.3)]
    for n in range(2, wires + 1):
        start = End(f"C{n // 35 + 1}", str(n % 35 + 1))
        finish = End(f"C{n // 35 + 2}", str(n % 35 + 36))
        if n % 10 == 0:
            start = End(f"F{n // 10}", "out")
        elif n % 10 == 5:
            start, finish = End("D1", "+"), End(f"F{n // 10 + 1}", "in")
        made.append(
            Wire(
                f"W{n}",
                start,
                finish,
                f"Function {n}",
                "",
                Colour(COLOURS[n % 8], COLOURS[n % 7]),
                WireSize("metric", SIZES[n % 6]),
                "C125",
                0.5 + n % 17 / 5,
                n % 9 / 2,
                50.0 + n % 5 * 5,
            )
        )
    # The last plugs may be named by a wire past the ones made above.
    known = {plug.code for plug in plugs}
    named = {end.at for wire in made for end in wire.ends if end.at.startswith("C")}
    plugs += [Connector(code, code, Grid(5, 14)) for code in sorted(named - known)]
    battery = Device("D1", "Battery", "battery", ("+", "-"))
    return Job(
        "large",
        "Two thousand wires",
        connectors=tuple(plugs),
        fuses=fuses,
        earths=(EarthPoint("E1", "Block"),),
        devices=(battery,),
        wires=tuple(made),
    )
