"""The stand-ins for other programs' libraries, read and written (docs/formats)."""
