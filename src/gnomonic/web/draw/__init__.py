"""What a page draws, in SI: lane by lane, a section, sentences."""
