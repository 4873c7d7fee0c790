"""The computation: NumPy arrays and dataclasses in, dataclasses out; no files, SQL or HTTP."""
