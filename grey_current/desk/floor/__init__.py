"""The floor plan: what it shows and what the pointer does on it."""
