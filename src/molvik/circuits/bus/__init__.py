"""The bus: a line of two wires that modules talk on.

topology finds each bus of a job: what hangs on it, which line and which stubs its wires make, where
its terminators are; meter says what an ohmmeter shows on it with anything unplugged; wave simulates
the line in time, and eye judges what each module sees; taps ranks the places for a new module.
"""
