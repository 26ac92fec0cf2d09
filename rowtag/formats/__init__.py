"""Open formats, in and out. Readers give columns of entries to the letter; writers give bytes."""
