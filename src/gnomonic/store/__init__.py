"""What is kept: the only place that knows PostgreSQL."""
