"""Open formats in and out: Data Package, CSV, XLSX, pasted text."""
