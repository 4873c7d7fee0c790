"""Nights that were played: telling them apart and together, what they share, and what comes next."""
