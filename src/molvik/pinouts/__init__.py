"""Pinouts: what is in every cavity. Reading tables, colour codes and cavity geometry."""
