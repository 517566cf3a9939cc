"""How everything looks."""
