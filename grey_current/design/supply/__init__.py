"""Whether the wiring bears what runs together."""
