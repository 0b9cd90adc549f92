"""Particles: where they are born, how they move, and what they are drawn with."""
