"""Every edit there is, a file for each kind: pure functions from a project to a new project.

A verb names the source it acts on. One that would change nothing returns the project it was
given, so that the caller can tell.
"""
