"""Routes, a module a room, and nothing else."""
