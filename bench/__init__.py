"""Benchmarks: they measure, and never assert."""
