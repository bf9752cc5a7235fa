"""Parts of documents that several kinds of piece share."""
