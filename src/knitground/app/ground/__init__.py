"""Stage 4: laying the ground."""
