"""The simulated person and the stand-ins for devices."""
