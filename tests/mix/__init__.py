"""Tests of several recordings as one sound."""
