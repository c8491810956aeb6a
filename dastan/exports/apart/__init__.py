"""Writing files in processes of their own: most of it is Python, which one process does on one processor at a time, and
whoever waits for a number would wait for it."""
