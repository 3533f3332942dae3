"""The gauge: bandwidth and latency before and now, and typed scores."""
