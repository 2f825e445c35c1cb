"""Folders that recordings come into by themselves, looked at every few minutes, over WebDAV (RFC 4918) or in a store of objects (S3)."""
