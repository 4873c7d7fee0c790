"""Carrying tracks and lists to other libraries and back: what becomes of each value, without files or SQL."""
