"""Designs to choose from, the starting design, and how both are fitted to a recording."""
