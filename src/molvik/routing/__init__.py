"""Routing: how long, how thick, past what.

The looms to build (model/routing.py: looms, joints, runs, zones) are part of the job too; edits in
model/routing_edits.py, of single runs (parted, joined, turned) in model/run_edits.py.
routing/graph.py is the loom graph with what sits where, ways says which way each goes or why none,
lengths what it is cut to, sections what lies in a run and how thick it is, hot what a hot surface
adds, packing where each wire lies in a run, layers where it lies in a twisted one. installation
tells Sizes the runs a wire lies in, with the neighbours it has there; a bundle or place that is
typed counts only where a wire has no way.

Putting a loom together: building is the one order of all steps; sides says what lies on either side
of a place as the wires go on, and assembly and clearances build on it; covers picks sizes
(reference/coversizes.py, the stock first), splices the place of least copper, alike the plugs that
can be swapped, judged by the job's solution corrected for their wires exchanged
(circuits/faultsolver).

Where a loom lies, as found or on the board: netlist/placing lays it (free knows what lies where) so
that nothing lies over anything else, except what a hand turned (Job.board, which nothing but the
board reads); turning is a drag as values; drawing shows it on the screen, vehicle by places;
the package board is the drawing at full size that one builds from, with its tiles of paper.
holding says what sits where on a stretch. The page draws it in the background.
"""
