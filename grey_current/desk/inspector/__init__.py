"""The inspector and its pages."""
