"""Pixels and sound as files: segments, encoding, joining, project files."""
