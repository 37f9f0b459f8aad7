"""Simulated outside devices and services, spoken to as the real ones are."""
