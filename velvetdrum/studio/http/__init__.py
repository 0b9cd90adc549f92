"""What comes over HTTP: the server, what requests may say, who may enter, and how faults are told."""
