"""Starting Kizami on one machine: its state folder, its own PostgreSQL, its processes."""
