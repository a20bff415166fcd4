"""Starting everything: the private database, the schema, the demo photos, the web server."""
