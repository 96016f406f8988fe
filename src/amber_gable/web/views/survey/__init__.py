"""The survey for its pages: forms of blocks, lists, the sheet on paper.

Not here: decisions (services), or drawing (drawing).
"""
