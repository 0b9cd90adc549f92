"""What layers, effects and masks are derived from, and what they get to know of the time that is drawn."""
