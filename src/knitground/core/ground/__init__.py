"""Grounds (maps): their layers, edits of them, and the tiles derived from what was painted."""
