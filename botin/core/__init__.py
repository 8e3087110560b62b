"""The rules and the computation: plain dataclasses and numpy, no interface, no store, no clock, no disk."""
