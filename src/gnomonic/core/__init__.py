"""What is true: pure functions and frozen models.  Nothing here imports the web, the store or the formats."""
