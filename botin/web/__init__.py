"""The browser's side: Flask, one blueprint per desk, htmx fragments, SVG."""
