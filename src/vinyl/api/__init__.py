"""The HTTP interface: routers and Pydantic models; translation only."""
