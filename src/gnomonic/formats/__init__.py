"""Open formats in and out: pure functions between bytes and core objects."""
