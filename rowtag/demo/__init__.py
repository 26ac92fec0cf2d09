"""The demo study: the made-up plot holders of the Fennel Row Allotments and their survey of 2026."""
