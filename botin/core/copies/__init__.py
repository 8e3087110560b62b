"""Copies: the cards one has, their sets and places."""
