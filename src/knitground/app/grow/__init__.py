"""Stage 5: mixes and recipes."""
