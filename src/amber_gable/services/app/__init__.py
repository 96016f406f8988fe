"""What runs: the scope, the clock, caches and the calculator, the keeper, the data folder, back-ups, health.

Not here: what it is asked for (the rooms beside it).
"""
