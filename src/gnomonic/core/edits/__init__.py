"""Edits: commands that make the next version of a Job, one file a subject."""
