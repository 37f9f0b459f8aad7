"""The Job document: what was measured, decided and found."""
