"""Crossover: how the donor's plug becomes the one that is needed.

What pinouts say: parsing/functions puts a function into this program's words: short forms and other
languages from the lists beside reference/tongues/, German compounds taken apart, what is said in
several words brought together; of what kind it is, what must agree. alike says how near two are. A
new word is a line in a list. tests/test_pinpairs.py keeps the pairs it is measured by, those
written afterwards apart. What both pinouts know of a wire between them is netlist/known.py.
pinouts/columns.py finds a table's columns by heading, or by looks.

Repinning: leads (what sits where at the start, what each cavity wants), match (the best
assignment), repinplan (what happens to each lead, its steps), order (the only place that knows how
terminals change places; play does the steps as a hand would and judges any order), work (a tick
moves the wire's end in the job). A set keeps where everything sat when its first step was ticked,
so the plan stands while the wires move.
"""
