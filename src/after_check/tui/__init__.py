"""The application: screens, dialogs, widgets, charts in cells. The only place with Textual."""
