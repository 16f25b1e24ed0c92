"""What the shop holds to: its processes with their limits, and its materials, edition by edition."""
