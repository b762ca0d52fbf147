"""The window, and what stands around the floor."""
