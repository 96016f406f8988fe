"""Take-off, price, rates and papers in words.

Not here: decisions (services), or drawing (drawing).
"""
