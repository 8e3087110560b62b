"""The home as a whole: kept safe, moved, brought up to date."""
