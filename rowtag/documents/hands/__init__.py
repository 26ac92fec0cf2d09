"""Ways in which people write codes, scales and limits into a text, one module for each.

Every hand says what it sees in a text, where, and how sure it is; which of them are believed is decided elsewhere.
"""
