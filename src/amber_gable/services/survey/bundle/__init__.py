"""A job as one document, out and in: the building, what was found, what was decided.

Not here: the document's shape (exchange.jobbundle).
"""
