"""Steps at the bench, one card at a time.

Bench cards (desktop/cards/benchcards.py: at_the_bench, TickList) step through any list of steps and
keep its ticks; cameracards brings photos to those that are done by one. Files that are dropped go
by desktop/jobfile/drops.py, before any field sees them.
"""
