"""Depth: a camera, marks in space, plates and solids."""
