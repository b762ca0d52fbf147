"""Reading and writing files: the project file, its schema, the air report."""
