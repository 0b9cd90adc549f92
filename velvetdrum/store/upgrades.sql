-- Version 4: edits that brought a document to a newer form. They are taken back and made again with their neighbours.

ALTER TABLE edit ADD COLUMN upgrade INTEGER NOT NULL DEFAULT 0;
