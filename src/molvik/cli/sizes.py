"""Sizes: quick sums, and the verdict on every wire."""

import argparse

from molvik.cli import calc, size


def add_commands(commands: "argparse._SubParsersAction[argparse.ArgumentParser]") -> None:
    """Add the commands to the parser."""
    calc.add_commands(commands)
    size.add_commands(commands)
