"""Ducts laid by computation: ways through the building, trees, sizes, whole proposals, the
collector's place.
"""
