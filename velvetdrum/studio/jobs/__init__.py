"""Work in the background: rows in the database, each with its states, sentences and an end."""
