"""Stage 2: labelling tiles with terrains."""
