"""Findings: what is wrong with a tileset or a ground, with the place where it shows."""
