"""Worker processes: their pools, and what they are asked to do."""
