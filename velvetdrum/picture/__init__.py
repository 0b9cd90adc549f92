"""A project at a time as pixels."""
