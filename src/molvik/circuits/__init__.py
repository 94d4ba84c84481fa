"""Circuits: which wire goes where, what is really connected, and what feeds it.

What is alive: devices/states (turned_to and Conditions: key, engine, switches, battery, air, faults
make one State), circuitgraph (the job as branches a current can take, with its faults), behaviour
(all devices as elements, and which work), simulate.OperatingPoint (solved until they agree;
analysis.operating_point(state) keeps it), and what builds on it: paths and why, route, scenario,
symptoms, drain. electrical/solve.py knows nothing of looms. Loads and wires are numbered once for
all states. Diodes that let hardly anything through are put in as the current they carry, the others
by Newton's method (electrical/junctions.py). Relays that lock one another are let go one by one;
where chance decides, both rests are told.

Stripping down (circuits/strip.py) takes wires away in groups and singly, and keeps those without
which a kept device is alive in other states or reaches something else.
"""
