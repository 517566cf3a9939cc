"""The model and its algorithms; nothing below here knows of an interface."""
