"""Crossover: how the donor's plug becomes the one that is needed. Not built yet."""
