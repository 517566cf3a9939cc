"""Going about the window by keys alone."""
