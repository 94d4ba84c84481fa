"""Gauges and what moves them: whether a gauge shows the truth with the sender or pulses it gets.

curves: ohms against a temperature, level or pressure, by points or by a thermistor's law, and laws
fitted to points; resistors: the standard resistor that mends a gauge best; matching: each gauge of
a job with what it gets; drawing: its error over the range.
"""
