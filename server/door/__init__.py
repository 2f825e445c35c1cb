"""The way in: signing in, workspaces, invitations, roles. What is done with the rows of `server.accounts`."""
