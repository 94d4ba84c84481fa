"""Circuits: what is alive and why, and what changes the loom."""

import argparse

from molvik.cli import alive, bus, charge, diagram, gauges, loom


def add_commands(commands: "argparse._SubParsersAction[argparse.ArgumentParser]") -> None:
    """Add the commands to the parser."""
    alive.add_commands(commands)
    loom.add_commands(commands)
    bus.add_commands(commands)
    charge.add_commands(commands)
    gauges.add_commands(commands)
    diagram.add_commands(commands)
