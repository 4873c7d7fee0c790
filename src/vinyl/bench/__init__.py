"""The project's own figures: how right and how fast the analysis is."""
