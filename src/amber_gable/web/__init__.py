"""The web face: thin routes, templates, static files. Parses and shows; decides nothing."""
