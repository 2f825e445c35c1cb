"""Outside systems that minutes, actions or records go to or come from."""
