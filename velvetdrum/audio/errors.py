"""The one error type of this package."""


class SoundError(Exception):
    """A recording can't be used. Its text is a sentence for the person who brought the file."""


class Cancelled(Exception):
    """The person stopped the work; nothing of it is kept."""
