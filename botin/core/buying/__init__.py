"""Before the purchase."""
