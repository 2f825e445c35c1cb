"""Small simulated stand-ins of the outside world, reached through its real protocols."""
