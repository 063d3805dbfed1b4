"""The application without a screen: model, formats, carriage and use cases."""
