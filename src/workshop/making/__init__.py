"""What a line was made into, and how it is changed, taken back and made again."""
