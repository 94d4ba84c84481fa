"""Standard resistors: IEC 60063, the series E12 and E24 (from memory)."""

E12 = (1.0, 1.2, 1.5, 1.8, 2.2, 2.7, 3.3, 3.9, 4.7, 5.6, 6.8, 8.2)
E24 = tuple(sorted((*E12, 1.1, 1.3, 1.6, 2.0, 2.4, 3.0, 3.6, 4.3, 5.1, 6.2, 7.5, 9.1)))

DECADES = range(5)
"""From 1 ohm to 91 kilohms."""

STANDARD_OHM = tuple(round(one * 10.0**decade, 1) for decade in DECADES for one in E24)

POWERS_W = (0.25, 0.5, 1.0, 2.0, 5.0, 10.0)
"""What resistors are sold for, W (common practice)."""

TWICE = 2.0
"""A resistor is taken for so many times what it turns to heat (common practice)."""
