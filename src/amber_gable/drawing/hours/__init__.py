"""Hours: ribbons, strips and curves on one axis of time, the sun plan, the working days.

Not here: the house itself (house).
"""
