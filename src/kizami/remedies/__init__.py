"""What would cure a finding, seen before it is taken."""
