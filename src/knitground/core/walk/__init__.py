"""Walking: what blocks on a ground, where a figure of some size has room, what hangs together, and how it moves."""
