"""The analogue inputs of engine computers. Common practice, from memory; no source."""

REFERENCE_V = 5.0
"""What sensors are fed with, V."""

PULL_UP_OHM = 2200.0
"""From the reference to a thermistor's input, ohms: 1 to 5 kilohms."""

BITS = 10
"""Of the converter: 1024 steps."""

FAULT_V = (0.1, 4.9)
"""Outside of these a sensor is taken for shorted, or for broken off, V."""

MATTERS_C = 90.0
"""The temperature at which an engine's fuel and fans are decided, deg C."""

SPAN_C = (-40, 150)
"""From which to which temperature an input is looked at, deg C."""
