"""Files that nobody has described: how they are written, what is in them, and the model that they speak for."""
