"""The web application: one folder per verb, with its routes, templates and script together."""
