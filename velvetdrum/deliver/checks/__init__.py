"""Checks of finished videos: flashes, black, frozen and silent stretches, loudness."""
