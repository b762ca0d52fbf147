"""What is open at the moment: project, selection, undo, commands, settings. No Qt here."""
