"""Logos, as their senders call them."""
