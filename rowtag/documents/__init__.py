"""Codebooks and questionnaires as people write them: from any document to described variables."""
