"""Items and their revisions that live together: a store, what may be done in it, and crates."""
