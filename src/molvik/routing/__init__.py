"""Routing: how long, how thick, past what."""
