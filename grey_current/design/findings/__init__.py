"""What is wrong, one module a subject, and the verdict."""
