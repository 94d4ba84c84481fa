"""Widgets that several stages use."""
