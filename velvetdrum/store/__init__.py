"""What is kept: projects with every edit, recordings by content, exports. Plain SQL over SQLite."""
