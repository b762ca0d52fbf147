"""Changes, what each is worth, and kept designs compared."""
