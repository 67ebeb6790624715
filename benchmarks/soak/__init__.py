"""A hostile week, simulated: what script/soak tries for up to twenty minutes, and the tests in a short form."""
