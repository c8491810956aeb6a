"""Varrow Bay Transit: a made-up transport authority on a made-up coast, generated."""
