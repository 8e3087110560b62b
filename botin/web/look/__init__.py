"""One desk: its routes, forms and templates side by side."""
