"""The papers on pages: laid out in millimetres, painted by Qt on PDF, printer or screen."""
