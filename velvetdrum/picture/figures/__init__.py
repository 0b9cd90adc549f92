"""What layers draw with: marks, base shapes, paint, and what particles and fields emit."""
