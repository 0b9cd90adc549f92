"""Letters: families, typefaces, shaping, lines."""
