"""Cards on scans."""
