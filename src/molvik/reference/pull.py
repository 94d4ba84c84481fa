"""How hard a crimp is pulled at, by the size of its wire.

Values of UL 486A for copper wire, from memory: 8 lbf at 22 AWG to 450 lbf at 4/0.
"""

LBF_N = 4.4482216152605
"""Newtons in a pound-force (NIST SP 811)."""

PULL_LBF: dict[int, float] = {
    22: 8,
    20: 13,
    18: 20,
    16: 30,
    14: 50,
    12: 70,
    10: 80,
    8: 90,
    6: 100,
    4: 140,
    3: 160,
    2: 180,
    1: 200,
    0: 250,
    -1: 300,
    -2: 350,
    -3: 450,
}
"""Pounds-force by AWG; 1/0 is 0, 4/0 is -3."""
