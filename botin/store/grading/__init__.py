"""Looks, counts of grades, grading orders."""
