"""Sizes: is every wire and fuse right, with the reason."""
