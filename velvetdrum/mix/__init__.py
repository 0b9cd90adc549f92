"""Several recordings as one sound: placed in time, with gains, fades, ducking and a voice made even; to the sample."""
