"""Edits: what a user can do to a project, one module for each topic.

An edit takes the document and does its change as one step of the history (or as part of the open gesture); the document
finds the delta and tells it to those who listen.
"""
