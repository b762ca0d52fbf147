"""Working in the shop: cards and checklists, a day's jobs in order, switching, and the dust that
stays in the room.
"""
