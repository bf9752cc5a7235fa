"""Everything that outlives a restart: pieces and their revisions, jobs, blobs."""
