"""Which barrier to hang: rank and weights."""
