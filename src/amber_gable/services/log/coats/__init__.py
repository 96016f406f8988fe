"""What is entered of a coat: its beginning against what speaks against it (starting), stop joints (joints), wet films by the comb (films).

Not here: the record of all work (log.record).
"""
