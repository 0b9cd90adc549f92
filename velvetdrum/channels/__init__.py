"""Channels that finished videos are posted to: what each takes, a service that stands in for them, and sending."""
