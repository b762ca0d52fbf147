"""Things that woodworkers make themselves, each as data and one function: drawing, cut list, the figure that decides."""
