"""The types of settings, one module each."""
