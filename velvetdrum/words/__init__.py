"""Timed words: cues, the formats that carry them, how they find their times, and what is checked of them."""
