"""Jobs with a bus, made for the tests from a few words."""

from molvik.model.job import Job
from molvik.model.parts import Connector, Device, End, Splice, Wire

LAY_MM = 25.0


def bus_job(
    *links: tuple[str, str, float | None],
    ends: tuple[str, ...] = (),
    plugs: tuple[Connector, ...] = (),
    splices: tuple[str, ...] = (),
    kbit: dict[str, float] | None = None,
    crossed: tuple[str, ...] = (),
    twisted: bool = True,
) -> Job:
    """Return a job with a pair of wires for each link: from, to, m.

    D1, D2 … are modules, C1 … the plugs given, S1 … pairs of splices: "S1" is joined high, "S1b"
    low. ends: which modules have a terminator. crossed: which have their wires the wrong way round.
    """
    codes = sorted({code for link in links for code in link[:2]})
    devices = tuple(
        Device(
            code,
            f"Module {code[1:]}",
            "network node",
            ("high", "low"),
            values=(
                *((("ohm", 120.0),) if code in ends else ()),
                *((("kbit/s", kbit[code]),) if kbit and code in kbit else ()),
            ),
        )
        for code in codes
        if code.startswith("D")
    )
    joints = tuple(Splice(name, f"Joint {name}") for code in splices for name in (code, f"{code}9"))

    def end(code: str, low: bool) -> End:
        if code.startswith("C"):
            return End(code, "2" if low else "1")
        if code.startswith("S"):
            return End(f"{code}9" if low else code, "")
        return End(code, "low" if low != (code in crossed) else "high")

    wires: list[Wire] = []
    for a, b, metres in links:
        for low in (False, True):
            wires.append(
                Wire(
                    f"W{len(wires) + 1}",
                    end(a, low),
                    end(b, low),
                    "Network low" if low else "Network high",
                    length_m=metres,
                    lay_length_mm=LAY_MM if twisted else None,
                )
            )
    return Job(
        id="bus",
        title="Bus",
        devices=devices,
        connectors=plugs,
        splices=joints,
        wires=tuple(wires),
    )
