"""Wire insulation: what it withstands and how thick it is.

Sources: classes of ISO 6722-1 and types of SAE J1128 and J1127, temperatures as published. Wall
thicknesses are given from memory of those standards, nominal, and rounded.
"""

from bisect import bisect_left
from typing import NamedTuple


class Insulation(NamedTuple):
    """A type of insulation. limit_c: the conductor temperature it lives with for its life, deg C.

    k: short-circuit constant of IEC 60364-4-43, A s^0.5 / mm2. wall: "thin", "medium", "thick" or
    "cable", a key of ``WALL_MM``.
    """

    code: str
    name: str
    limit_c: float
    k: float
    wall: str


K_PVC = 115.0
"""IEC 60364-4-43, copper in PVC, 70 to 160 deg C."""
K_CROSS_LINKED = 143.0
"""IEC 60364-4-43, copper in cross-linked insulation, 90 to 250 deg C."""

_TYPES = (
    Insulation("A85", "ISO class A, PVC, 85 °C", 85, K_PVC, "thin"),
    Insulation("B100", "ISO class B, PVC, 100 °C", 100, K_PVC, "thin"),
    Insulation("C125", "ISO class C, cross-linked, 125 °C", 125, K_CROSS_LINKED, "thin"),
    Insulation("D150", "ISO class D, 150 °C", 150, K_CROSS_LINKED, "thin"),
    Insulation("E175", "ISO class E, 175 °C", 175, K_CROSS_LINKED, "thin"),
    Insulation("F200", "ISO class F, 200 °C", 200, K_CROSS_LINKED, "thin"),
    Insulation("G225", "ISO class G, 225 °C", 225, K_CROSS_LINKED, "thin"),
    Insulation("H250", "ISO class H, 250 °C", 250, K_CROSS_LINKED, "thin"),
    Insulation("GPT", "GPT, PVC, 80 °C", 80, K_PVC, "medium"),
    Insulation("HDT", "HDT, thick PVC, 80 °C", 80, K_PVC, "thick"),
    Insulation("TXL", "TXL, thin cross-linked, 125 °C", 125, K_CROSS_LINKED, "thin"),
    Insulation("GXL", "GXL, cross-linked, 125 °C", 125, K_CROSS_LINKED, "medium"),
    Insulation("SXL", "SXL, thick cross-linked, 125 °C", 125, K_CROSS_LINKED, "thick"),
    Insulation("SGT", "SGT battery cable, PVC, 80 °C", 80, K_PVC, "cable"),
    Insulation("SGX", "SGX battery cable, cross-linked, 125 °C", 125, K_CROSS_LINKED, "cable"),
)

INSULATIONS: dict[str, Insulation] = {entry.code: entry for entry in _TYPES}

UNKNOWN = Insulation("", "not known: taken as old PVC, 80 °C", 80, K_PVC, "medium")
"""What a wire of unknown insulation is taken for: the least that vehicle wire was ever made of."""

WALL_MM: dict[str, tuple[tuple[float, float], ...]] = {
    # (up to this section in mm2, wall in mm)
    "thin": ((0.5, 0.28), (1.5, 0.30), (2.5, 0.35), (6, 0.40), (16, 0.60), (35, 0.80), (130, 1.1)),
    "medium": ((0.5, 0.58), (3.5, 0.60), (6, 0.80), (10, 0.95), (25, 1.1), (130, 1.6)),
    "thick": ((2.5, 0.76), (6, 0.95), (10, 1.1), (25, 1.3), (130, 1.8)),
    "cable": ((16, 1.5), (55, 1.65), (130, 2.0)),
}

COUNTED_WALL_MM = 0.76
"""A wall thicker than this widens the surface that cools a thin wire by more than published
currents allow (NFPA 70, table 310.17, is for walls of about this up to 10 AWG; from memory). What
lies over it is heat's longer way out, and no more surface: our choice, on the safe side."""

COUNTED_SHARE = 0.25
"""Over thick copper a wall up to this share of its diameter counts (our choice: there the published
currents are met with any wall)."""

CONDUCTIVITY_W_PER_M_K = 0.2
"""Thermal conductivity of PVC and polyethylene insulation, W/(m K), usual handbook range 0.17 to
0.29."""


HEAT_PVC, HEAT_CROSS_LINKED = 1.7e6, 2.4e6
"""Heat a cubic metre of insulation takes, J/(m3 K) (IEC 60853-2, PVC and cross-linked polyethylene;
from memory)."""

_EVERYDAY = {
    "pvc": "GPT",
    "vinyl": "GPT",
    "thin pvc": "A85",
    "xlpe": "C125",
    "xlp": "C125",
    "crosslinked": "C125",
    "cross-linked": "C125",
    "polyethylene": "C125",
    "silicone": "E175",
    "rubber": "GPT",
    "ptfe": "H250",
    "battery cable": "SGT",
}


def everyday(name: str) -> str:
    """Return the code of an insulation by the name it has at the bench, empty for none: the least
    of its kind (common practice).
    """
    return _EVERYDAY.get(" ".join(name.lower().split()), "")


def read_insulation(text: str) -> str:
    """Return the code of an insulation as people type it: by its code, the start of its name, or
    what it is called at the bench; empty for nothing. ValueError says what to type.
    """
    tidy = " ".join(text.lower().split())
    if not tidy:
        return ""
    found = next(
        (entry.code for entry in _TYPES if tidy in (entry.code.lower(), entry.name.lower())), ""
    )
    found = found or everyday(tidy)
    if not found:
        near = [entry.code for entry in _TYPES if entry.name.lower().startswith(tidy)]
        found = near[0] if len(near) == 1 else ""
    if not found:
        raise ValueError(
            f"“{text.strip()}” is not an insulation known here. Type one of: "
            f"{', '.join(INSULATIONS)}, or {', '.join(_EVERYDAY)}."
        )
    return found


def insulation(code: str) -> Insulation:
    """Return the insulation of this code, or the cautious assumption for an unknown one."""
    return INSULATIONS.get(code, UNKNOWN)


def wall_mm(kind: Insulation, area_mm2: float) -> float:
    """Return the nominal wall thickness, mm, over a conductor of this section."""
    steps = WALL_MM[kind.wall]
    index = min(bisect_left([area for area, _ in steps], area_mm2), len(steps) - 1)
    return steps[index][1]
