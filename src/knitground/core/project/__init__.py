"""The project: its document, its file, and the tiles worked out from it."""
