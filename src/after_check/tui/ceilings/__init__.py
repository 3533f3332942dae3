"""What caps the rate."""
