"""Walking over the ground with a small figure, and seeing what blocks and what can be reached."""
