"""Stage 6: handing the ground over."""
