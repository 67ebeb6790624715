"""Actions of the Arrange room: plain classes that take the desk and a way to ask; each returns its own actions."""
