"""Circuits that people lay again and again, and jobs to begin from, whole and passing."""
