"""The pure heart: no I/O, no clock, no web, no SQL text."""
