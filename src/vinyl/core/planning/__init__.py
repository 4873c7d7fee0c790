"""What goes with what."""
