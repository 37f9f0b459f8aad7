"""Words about a plan: tags, steps, what an edit changed."""
