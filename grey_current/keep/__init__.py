"""Keeping the shop going: how sure the figures are, readings that make the model true, what to
measure next.
"""
