"""What the user draws and owns, as immutable values. No computing beyond geometry."""
