"""Small simulated stand-ins for the world outside: they ship with the application, share no code
with it and import nothing of ours. They have no clock: every request carries `as_of`."""
