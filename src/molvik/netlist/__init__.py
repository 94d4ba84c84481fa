"""What is really connected, and how current passes: one truth for solver, fuses and paths.

What passes current through each kind of device is said once (Kind.passages): the ways of the
solution and the search for the fuse before a net (netlist/feeds.py) both read it, so that a wire
that carries current is judged. tests/test_feeds.py holds the two together. What can flow into a
short there is the largest flow by all ways at once, from batteries and alternators
(netlist/flow.py), held to a search of its own by tests/test_feeds_together.py; a wire before a fuse
is judged by what lies ahead, the cables that all comes back through by returns; tests/burning.py
says by itself which wires burn. Which pole is live and which batteries stand on one another is
netlist/batteries.py. With plus at metal the network is solved as its mirror image, so that
voltages, feeds and explanations read alike; only what knows its poles is turned
(devices.nodes.turned, CircuitGraph.polarity), and tests/test_poles.py turns whole jobs round.

One search finds the best way (netlist/search.py): the fewest open links, the least resistance, the
widest fuse; netlist/branches.py says what costs what.
"""
