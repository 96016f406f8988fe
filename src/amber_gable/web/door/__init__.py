"""The door: what comes in is counted, its host and its rows are checked, forms are taken once, faults become answers.

Not here: routes, or what pages show (views).
"""
