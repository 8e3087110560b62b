"""Use cases: load what the core needs, call it, write results. No HTTP, no HTML."""
