"""Sizes: is every wire and fuse right, with the reason.

Sizing: Electrics.sizing_cases gathers what is asked of each wire (SizingCase: load, the stretches
it lies in with their air and neighbours, of which the worst binds, duty, paths, fuse), judge(size,
case) is pure and answers for any size, so that the smallest that passes, a substitute and another
voltage are the same judgement asked again. What its neighbours overheat is told by crowded: which
of them do, and what laying it otherwise would come to.

How a wire stands (fails, tight, passes, not judged) and the verdict in words are
sizes/assessment.py.
"""
