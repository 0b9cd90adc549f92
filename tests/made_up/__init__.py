"""Kinds that no program needs, one file each, to see that a kind is one file."""
