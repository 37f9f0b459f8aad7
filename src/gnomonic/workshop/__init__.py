"""Tools of the makers: speed measured, pictures taken."""
