"""Molvik: every wire of an engine harness accounted for."""

__version__ = "0.1.0"
