"""What takes the air: causes behind the findings, each with the cheapest cure."""
