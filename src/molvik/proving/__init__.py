"""Proving: is it right, before and after power? Continuity first."""
