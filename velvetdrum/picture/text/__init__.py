"""Text on pictures: typefaces, shaping, small print."""
