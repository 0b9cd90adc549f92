"""A recording in numbers: decoding, bands, levels, loudness and the stored analysis."""
