"""What a job costs and why: price, its range, the contractor's own rates, what changed since it was agreed.

Not here: quantities and hours (takeoff).
"""
