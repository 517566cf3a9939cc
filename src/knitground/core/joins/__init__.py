"""Join sets: tiles labelled with terrains, and the knitting of painted terrains into tiles."""
