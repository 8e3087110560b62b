"""What is left of a sale."""
