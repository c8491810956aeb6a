"""One router per resource. A handler parses, calls, and returns a declared model."""
