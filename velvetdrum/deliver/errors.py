"""The error type of this package."""


class DeliverError(Exception):
    """A file can't be made or read. The text is a sentence for the person who asked for it."""
