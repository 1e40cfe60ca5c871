"""What was measured with the devices on the desk: they are simulated, and run by the clock."""
