"""The web application: thin blueprints over the operations, and the built front end."""
