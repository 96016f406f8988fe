"""Systems: what goes on each surface, in what steps, and why.

facts: what is known · tags: facts as words that rules ask for · rules: which hold and what they
decide · specify: the ordered steps · colour_change: what a colour asks · check: do the tables hold.
"""
