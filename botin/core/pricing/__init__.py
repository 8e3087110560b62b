"""What cards sell for, and what a box of them is worth."""
