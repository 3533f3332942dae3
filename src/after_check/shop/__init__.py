"""Where jobs are kept: small stores on one database, the outbox, job files, what joins two benches, signing."""
