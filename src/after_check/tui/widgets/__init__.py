"""Parts of screens that are used in one or several of them."""
