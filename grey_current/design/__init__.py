"""What follows from a project: network, flows, findings, verdict. Pure functions of the project."""
