"""What comes in is bounded before it is read: JSON, archives, and the processes that decode."""
