"""Memory tests: march programs, kernels that run them, fault models that they are measured by, addresses, plans."""
