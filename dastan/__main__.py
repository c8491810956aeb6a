"""Runs the command line: `python -m dastan`."""

from dastan.cli import app

app(prog_name="dastan")
