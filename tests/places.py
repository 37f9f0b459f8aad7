"""Where things are, for tests."""

from pathlib import Path

HOME = Path(__file__).parents[1]
