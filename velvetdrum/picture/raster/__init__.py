"""Pixels: the canvas, layer images, blending and compositing, colour, and the compiled loops."""
