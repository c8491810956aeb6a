"""Models that are being changed: their draft, what is seen of their tables, and their publication."""
