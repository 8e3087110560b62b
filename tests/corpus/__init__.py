"""Messy sources of invented products, each with its truth; the reader is measured against them."""
