"""The site as it is shown: my day, the log as one list, inspection, kit, pages that a phone carries.

Not here: decisions (services), or drawing (drawing).
"""
