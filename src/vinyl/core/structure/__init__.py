"""Sections, phrases and energy."""
