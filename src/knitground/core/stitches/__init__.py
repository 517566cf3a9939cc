"""Stitches: ordered rules that lay tiles by the pattern of a cell's neighbours."""
