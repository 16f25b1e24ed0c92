"""A stand-in for a web shop: serves its orders as pages of JSON and takes notes of how they stand.

It ships with Kizami so that the feed can be tried and tested without a shop. It knows nothing of
Kizami; the two share only the documented pages, see docs/feed.md and order.schema.json.
"""
