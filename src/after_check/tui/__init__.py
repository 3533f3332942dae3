"""The application. The only place with Textual."""
