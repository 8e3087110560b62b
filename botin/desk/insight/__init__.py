"""What came of it, and what logs teach."""
