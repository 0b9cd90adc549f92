"""Curves over time that are read from an analysis: bars of a spectrum and their envelopes."""
