"""Grades: the forecast, what came back, which tier."""
