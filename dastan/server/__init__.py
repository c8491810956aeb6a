"""The web server: thin routes, Pydantic at the edge, sessions and rights."""
