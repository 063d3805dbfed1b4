"""The window: presenters without widgets, widgets over them, the picture in scene/."""
