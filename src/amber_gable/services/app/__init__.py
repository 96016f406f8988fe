"""What runs: one application (app), who acts in it and for whom (scope, owners), clock, caches, calculator, keeper.

In machine: the data folder, opening, back-ups, addresses, health. Not here: what it is asked for (the rooms beside it).
"""
