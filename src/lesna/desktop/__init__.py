"""The window: the only room that knows Qt. It shows Results and turns gestures into changes of the document."""
