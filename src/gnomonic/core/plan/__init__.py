"""Job → Plan."""
