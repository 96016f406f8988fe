"""Routes of the office: take-off, price, papers, bids, the truck list.

Not here: what they call (services).
"""
