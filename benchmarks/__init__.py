"""What is measured, by group. Run with ./bench [--group NAME]."""
