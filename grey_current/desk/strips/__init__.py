"""What stands under the floor, one strip a stage."""
