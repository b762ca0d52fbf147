"""Helpers beside the program: other processes that take a share of a search off its hands. Knows
nothing of shops.
"""
