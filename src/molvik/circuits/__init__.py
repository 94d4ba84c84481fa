"""Circuits: which wire goes where, what is really connected, and what feeds it."""
