"""From the design to the pile of pipe: cuts, the bill, phases, things made in the shop, drawings
and papers.
"""
