"""From the ductwork as drawn to air at every pickup."""
