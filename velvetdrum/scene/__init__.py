"""What a project says: settings and their units, layer kinds, the document, its schema and its edits."""
