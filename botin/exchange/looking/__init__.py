"""Pictures of cards in."""
