"""The signal kinds, one module each. Importing this package makes all of them known."""

from importlib import import_module

# In the order in which they are offered.
for _name in ("pickup", "clock", "lfo", "wander", "progress", "drawn", "mix"):
    import_module(f"{__name__}.{_name}")
