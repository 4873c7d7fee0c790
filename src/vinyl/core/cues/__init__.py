"""Proposals for cues."""
