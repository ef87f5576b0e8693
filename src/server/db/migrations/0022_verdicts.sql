-- What is put into the archive or into junk teaches whether it is wanted.
CREATE OR REPLACE FUNCTION note_filing() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  IF TG_OP = 'INSERT' THEN
    INSERT INTO filing_due (person, message, arrived)
    SELECT n.person, n.message, true FROM new_rows n
    JOIN folder f ON f.person = n.person AND f.id = n.folder
      AND (f.role IS NULL OR f.role IN ('archive', 'junk')) WHERE n.sender <> 0;
  ELSE
    INSERT INTO filing_due (person, message, arrived)
    SELECT n.person, n.message, false FROM new_rows n
    JOIN old_rows o ON o.person = n.person AND o.message = n.message AND o.folder <> n.folder
    WHERE n.sender <> 0 AND EXISTS (SELECT FROM folder f
      WHERE f.person = n.person AND f.id IN (o.folder, n.folder)
        AND (f.role IS NULL OR f.role IN ('archive', 'junk')));
  END IF;
  RETURN NULL;
END $$;
