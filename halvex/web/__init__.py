"""The web: routes, the OpenAPI document, the live socket and the built front end."""
