"""Tiles into pixels."""
