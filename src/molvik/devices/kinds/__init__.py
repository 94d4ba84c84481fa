"""The kinds of devices, each one entry."""
