"""Proving: is it right, before and after power? Continuity first.

bench is the loom unplugged, its nets and what a meter shows there; proofplan the fewest
measurements and what was found; isolation asks for groups and takes answers, touching keeps what
came of it, channels says which lead of a tester each point is on; found says of each cavity how it
stands (drawing/marks, drawn by drawing/faces from a netlist/plugmap: the map, cards of isolation,
the report); power the steps from a first look for shorts to the drain at rest: bringup until every
plug is in, each step solved with exactly what is in by then, signals for what the vehicle would
give, then the engine with what it needs switched on (powerstep). computer says what an engine
computer sees at its cavities and which codes that sets, troublecodes which of them are harmless.
causes are faults of netlist/faults.py with odds; faultsimulator plays them through (benchfault on
the bench; under power circuits/faultsolver, faultedges, lowrank, corrected: the sound network
corrected by what the fault changes, bounds how far voltages may move before a device stands
otherwise, held to the whole solution by tests/test_faultsolver.py); observations says what of the
readings counts and what wavers; analysis.simulator keeps what was played from reading to reading;
scoring holds them against readings within their searchscope (connected: all that is joined to them;
in a large job what lies on the scopepaths to them), and diagnose ranks them and proposes the next
measurement. points says where something is measured, in which state and with what out (a plug that
is pulled is a fault like any other to the network); probing which of these a meter reads as it
stands, benchtop what lies on the bench for it (drawn by drawing/benchtop). practice hides faults:
hiding which, complaints what a customer says of them, hiddenbench what each thing done there shows
and costs (costs), round what is left and naming it, after what each step told, record what comes up
more often. tests/test_diagnose.py hides faults and finds them; benchmarks/diagnosis.py 400 of
them; benchmarks/calibration.py holds verdicts to how sure they say they are
(docs/likely-causes.md).

A reading (Reading, model/job.py) is a value with quantity, points, state of the job, instrument,
warmth and what it is of: the loom, a part, a drop, a crimp, codes, or what was mended.
proving/taken.py makes them; validity says which still tell of the loom as it is. Tests of things by
themselves (items: parttests, jointtests) are typed and judged in one table; the continuity of a
wire is one kind of reading (wiretest; continuity says what the plan's readings say of each wire). A
way whose wires were measured one by one counts as measured: window, list, report and command line
come to one figure. What failed and then passes, comes_and_goes, is sound only when it passed again
moved and warmed.
"""
