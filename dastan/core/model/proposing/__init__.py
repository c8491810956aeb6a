"""A model proposed from its tables: what was seen of them goes in, a document with its assumptions comes out."""
