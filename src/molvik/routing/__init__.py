"""Routing: how long, how thick, past what. Not built yet."""
