"""Setting up and starting: system packages, Python and web packages, models, database, processes.

Runs on a bare Python 3.11 without any package, since it is what installs them.
"""
