"""The HTTP interface: thin routes over the services."""
