"""The computation: sound to record to minutes. Imports no Django and no interface code."""
