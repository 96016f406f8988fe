"""The office: bids, extras, what was agreed, stock, truck list, own rates, the shelf of data sheets.

Not here: quantities and price of a job (takeoff).
"""
