"""Halvex: display lettering as lit, three-dimensional objects."""

__version__ = "0.1.0"
