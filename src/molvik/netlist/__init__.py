"""What is really connected, and how current passes: one truth for solver, fuses and paths."""
