"""Gnomonic plans wire fence over real ground."""

__version__ = "0.12.0"
