"""What circuits usually carry, A at 12 V, by the words of their functions (common practice, from
memory; no source). The first entry whose words a function has all of counts.
"""

_LOADS = """
oxygen heater: 2
glow: 15
heater fan: 15
fan relay: 0.3
fuel pump relay: 0.3
relay: 0.3
rear window heater: 15
seat heater: 6
heater: 10
throttle motor: 5
window motor: 10
wiper: 6
washer: 3
horn: 5
fan: 20
fuel pump: 10
coolant pump: 8
air pump: 25
pump: 8
headlamp: 5
high beam: 5
dipped beam: 5
fog lamp: 5
brake lamp: 4
indicator: 2
check lamp: 0.3
charge lamp: 0.3
lamp: 2
coil: 7
injector: 1.5
variable cam: 1.5
boost control: 1.5
exhaust gas recirculation: 2
idle: 1.5
purge: 1
compressor: 4
cold start injector: 2
solenoid: 1.5
valve: 1.5
motor: 8
"""

USUAL_LOADS_A: tuple[tuple[frozenset[str], float], ...] = tuple(
    (frozenset(words.split()), float(amps))
    for words, amps in (line.split(": ") for line in _LOADS.strip().splitlines())
)
