"""Paint: which colour a figure has in each of its places, at each level and at each time."""
