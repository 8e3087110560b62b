"""Where a copy should go."""
