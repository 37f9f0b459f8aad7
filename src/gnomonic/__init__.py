"""Gnomonic plans wire fence over real ground."""

__version__ = "0.7.0"
