"""How a job is judged: what is known of it put together, judged, and frozen for whoever shows it. No store, no interface."""
