"""The job itself: columns, reading, tags, steps, checks, tables. No HTTP, SQL, files or clock."""
