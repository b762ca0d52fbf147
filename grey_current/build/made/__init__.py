"""Things that woodworkers make themselves, each as data and a function: drawing, cut list, the
figure that decides.
"""
