"""Benchmarks: bandwidth, latency by working set, conditions, and the statistics of before and now."""
