"""The physics of air in pipes and fans. Knows nothing of shops; imports only `units` and
`errors`.
"""
