"""Small wrong changes to the core, one by one, and which of them no test finds."""
