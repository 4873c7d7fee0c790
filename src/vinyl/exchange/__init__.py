"""Reading and writing the open formats by which programs exchange what they know."""
