"""What a design consists of as things one buys: fittings, straight pieces of pipe, and what they
cost.
"""
