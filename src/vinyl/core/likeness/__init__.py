"""Same recordings, and tracks that sound alike."""
