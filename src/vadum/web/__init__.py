"""The interface: routes by place, templates, static files."""
