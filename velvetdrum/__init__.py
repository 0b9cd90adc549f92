"""Velvet Drum: pictures that move with a recording."""

__version__ = "0.1.0"
