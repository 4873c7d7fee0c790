"""Packing for standalone players: profiles, the plan, writing and verifying."""
