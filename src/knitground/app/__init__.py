"""The window: it shows the core's document, sends it commands, and holds no truth of its own."""
