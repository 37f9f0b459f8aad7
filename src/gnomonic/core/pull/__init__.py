"""Stretching: what a pull does along a run, on the day, on release and through the seasons.  Plain numbers in and out."""
