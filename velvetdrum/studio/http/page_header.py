"""The mark by which the studio's own pages are known."""

MARK = "X-Velvet-Drum"
"""A header that the studio's own pages send. Other sites can't add it without being asked first (CORS)."""
