"""What a plan does not like, with remedies, one file a subject."""
