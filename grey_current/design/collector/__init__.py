"""Questions about collectors: what one must do, which would, whether it fits."""
