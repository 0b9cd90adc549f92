"""Words find their times: what is said, aligned to the recording of it."""
