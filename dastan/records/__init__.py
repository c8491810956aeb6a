"""What the server remembers: people, sessions, analyses, shares, drafts. Plain SQL on SQLite."""
