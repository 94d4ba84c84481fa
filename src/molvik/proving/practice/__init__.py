"""Finding faults for practice: something is hidden in a job, looked at, probed, and named.

Nothing of it enters the job: what is measured here proves nothing.
"""
