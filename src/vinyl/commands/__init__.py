"""The commands behind ``./vinyl`` that work on a library: by the server that has it open, or without one."""
