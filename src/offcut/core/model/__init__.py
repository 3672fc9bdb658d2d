"""The data model: what a project is, and the verbs that change it."""
