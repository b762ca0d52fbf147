"""The shop in space: a picture that is turned, clicked and measured in."""
