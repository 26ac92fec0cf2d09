"""What people do with studies, made from core, formats and store; the HTTP interface and the command line call it."""
