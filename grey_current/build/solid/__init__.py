"""The shop in space: every body and every part of the ductwork as a closed mesh, the camera that
looks at them, and the picture that it sees.
"""
