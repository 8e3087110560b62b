"""What is offered, sold, packed and sent."""
