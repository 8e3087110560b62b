"""The box on the table."""
