"""What is read off an answer: windows, charts, marks, what stands behind a number."""
