"""Shared physics: conductors, heat and fuses."""
