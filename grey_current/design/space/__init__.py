"""What stands where: lanes, clashes, hose reach, routing."""
