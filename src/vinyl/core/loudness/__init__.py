"""Loudness after ITU-R BS.1770."""
