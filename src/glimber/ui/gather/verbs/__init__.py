"""Actions of the Gather room: plain classes that take the desk and a way to ask; each returns its own actions."""
