"""Chroma and key."""
