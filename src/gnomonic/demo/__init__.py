"""The invented co-op Larkspur Holm: shipped files and the jobs made from them."""
