"""Attacks on what takes input from outside: damaged files, odd requests, kills.  The tests run short forms of them."""
