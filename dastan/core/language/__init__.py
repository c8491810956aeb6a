"""The formula language: what people write, read and written back. What it means is told by `core/model/meaning`."""
