"""Grey Current: design, build and keep a dust collection system for a home woodshop."""
