"""What a battery and an alternator do in use. Common practice, from memory; no source."""

HOT_SHARE = 0.85
"""What a hot alternator gives of what it gives cold: its rating is for 25 deg C, a bay has 80."""

TAKES_ALL, FULL_SHARE = 0.8, 0.05
"""Up to which charge a lead-acid battery takes all it is given at the set voltage, as a share of
full; and what share of that it still takes when it is full. Between them it falls evenly."""

KEPT = 0.9
"""What is left in a battery of the ampere-hours that went in."""

EMPTY = 0.2
"""A starter battery with less than this share of its charge turns no engine."""

CHARGING_V = (13.8, 14.8)
"""Between which voltages a battery of 12 V is charged; charged and at rest it has 12.6 V."""

PULLEYS = (1.5, 4.0)
"""Between which ratios pulleys are made."""

USUAL_DRIVE: tuple[tuple[str, float, float, bool, bool], ...] = (
    ("in traffic, night and rain", 30.0, 800.0, True, True),
    ("on the road, night and rain", 20.0, 2200.0, True, True),
    ("on the road, by day", 20.0, 2500.0, False, False),
    ("parked", 720.0, 0.0, False, False),
)
"""A day of a vehicle (our choice): name, minutes, engine speed in 1/min (0 for the key off), night,
rain."""

WORKS = {"winch", "hydraulic", "crane", "compressor"}
"""Words of what works while the vehicle stands with its engine running."""

WORK = ("at work", 5.0, 1500.0)
"""How long such a thing is used in a usual day, min, at which engine speed, 1/min (our choice)."""

SHARES: tuple[tuple[str, float, float, float, float], ...] = (
    # words, by day and dry, more at night, more in rain, more at idle
    ("horn", 0.0, 0.0, 0.0, 0.0),
    ("starter", 0.0, 0.0, 0.0, 0.0),
    ("glow", 0.0, 0.0, 0.0, 0.0),
    ("cold start", 0.0, 0.0, 0.0, 0.0),
    ("washer", 0.0, 0.0, 0.02, 0.0),
    ("wiper", 0.0, 0.0, 0.8, 0.0),
    ("stop lamp", 0.05, 0.0, 0.0, 0.45),
    ("brake switch", 0.05, 0.0, 0.0, 0.45),
    ("reverse lamp", 0.01, 0.0, 0.0, 0.0),
    ("indicator", 0.05, 0.0, 0.0, 0.1),
    ("high beam", 0.0, 0.2, 0.0, 0.0),
    ("main beam", 0.0, 0.2, 0.0, 0.0),
    ("fog", 0.0, 0.0, 0.3, 0.0),
    ("headlamp", 0.0, 1.0, 0.0, 0.0),
    ("dipped", 0.0, 1.0, 0.0, 0.0),
    ("tail lamp", 0.0, 1.0, 0.0, 0.0),
    ("side lamp", 0.0, 1.0, 0.0, 0.0),
    ("beacon", 0.0, 1.0, 0.0, 0.0),
    ("rear window", 0.0, 0.0, 0.6, 0.0),
    ("oxygen", 1.0, 0.0, 0.0, 0.0),
    ("heater", 0.3, 0.2, 0.5, 0.0),
    ("fan", 0.1, 0.0, 0.0, 0.4),
    ("winch", 0.0, 0.0, 0.0, 0.0),
)
"""How long loads are on, as a share of the time, by words of their names in this program's terms;
all others are on. Our guesses."""

IDLE_RPM = 1200.0
"""Below this an engine idles, 1/min."""
