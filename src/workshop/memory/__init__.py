"""What is made once and remembered for a while, bounded by its bytes."""
