"""Survey: what do I have, and what state is it in.

The loom as found (model/loom.py: nodes, segments, found wires, faults) is part of the job; its
edits are in model/loom_edits.py, its tree is analysis.loom. Nodes, segments and the ways through
them are one graph for any loom (netlist/loomgraph.py), what lies over them one table
(reference/coverings.py). A wire as found can be linked to the wire that it is in the job, and give
it its length; a length says where it is from (Wire.length_from). Decisions are the rules of
survey/rules.py, tried from the top; survey/decide.py lets the user's word stand, with a reason
where it leaves what is bad, which then counts as accepted. survey/before.py lists what is recorded
before a loom is opened: a step is done by what it brought into the job.
"""
