"""Knit Ground: from a sprite sheet to a seamless tile map."""
