"""Single sign-on: people who come in by an OpenID Connect provider, and the groups that it names for them."""
