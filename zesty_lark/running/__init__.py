"""Running the application on one machine: the private database and the web server, watched over together."""
