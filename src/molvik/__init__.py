"""Molvik: every wire of an engine harness accounted for."""

import os

__version__ = "0.1.0"

# The matrices here are small, and many: threads of the algebra library wait for one another in
# a loop that costs more than they save. Playing the main causes of 2,000 wires through takes 4 s of
# processor time with one, 12 s with two. Read when numpy is first imported, which is always later.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
