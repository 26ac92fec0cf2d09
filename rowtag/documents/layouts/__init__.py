"""Ways in which a document sets its variables: as terms, in tables, as lines, as questions; one module for each."""
