"""How kinds are declared: settings with units, and the base of every class that has them."""
