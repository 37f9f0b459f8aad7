"""Gnomonic plans wire fence over real ground."""

__version__ = "0.11.0"
