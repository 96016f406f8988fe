"""The plan as it is shown: start page, evenings, boards, crew, machines, what it costs.

Not here: decisions (services), or drawing (drawing).
"""
