"""Clips: read frame by frame in any order, prepared when they come, timed as their layer says."""
