"""The studio: Flask pages and a JSON interface over the core. Nothing is computed here."""
