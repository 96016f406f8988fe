"""Paint: products and labels, colour and light on it, drying, what may happen to a fresh coat, overspray, years to the next.

Not here: which steps a surface gets (systems), how much paint it takes (takeoff), or when it may go on (windows).
"""
