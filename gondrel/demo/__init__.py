"""The demo: an invented canal-lock paddle winding gear, modelled with the kernel."""
