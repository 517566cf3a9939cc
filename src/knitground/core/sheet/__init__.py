"""Sprite sheets: reading them, cutting them into tiles, guessing how they are cut."""
