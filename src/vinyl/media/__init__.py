"""Decoding and encoding, tags, and files on disk."""
