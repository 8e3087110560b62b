"""Products and their checklists."""
