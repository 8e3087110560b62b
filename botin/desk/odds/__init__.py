"""What a box holds: rates, promises, print run, what cannot be right."""
