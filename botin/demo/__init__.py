"""The demo: an invented season of the Meridian Track League, made from small tables by a fixed random generator."""
