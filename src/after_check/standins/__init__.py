"""Simulated machines, written from the machine's side; they share no code with what reads and judges them."""
