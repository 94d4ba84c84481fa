"""The Crossover page."""
