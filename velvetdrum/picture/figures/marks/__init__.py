"""What figures share: marks, how they are painted, copies, and the heights that they show."""
