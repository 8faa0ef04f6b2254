"""The application over HTTP: routes, jobs, and the built front end."""
