-- Room for in-page updates: 45 left 99.9 % of them in their page at a million rows.
ALTER TABLE "message_state" SET (fillfactor = 45);--> statement-breakpoint
ALTER TABLE "message_state" SET (autovacuum_vacuum_scale_factor = 0.05);--> statement-breakpoint
ALTER TABLE "content" ALTER COLUMN "raw" SET COMPRESSION lz4;--> statement-breakpoint
ALTER TABLE "ledger" ALTER COLUMN "change" SET COMPRESSION lz4;--> statement-breakpoint
ALTER TABLE "job_chunk" ALTER COLUMN "data" SET STORAGE EXTERNAL;--> statement-breakpoint
CREATE FUNCTION count_states() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  IF TG_OP = 'INSERT' THEN
    INSERT INTO folder_count (person, folder, total, unread)
    SELECT person, folder, count(*), count(*) FILTER (WHERE bits & 1 = 0) FROM new_rows GROUP BY person, folder
    ON CONFLICT (person, folder) DO UPDATE
      SET total = folder_count.total + excluded.total, unread = folder_count.unread + excluded.unread;
  ELSIF TG_OP = 'DELETE' THEN
    UPDATE folder_count c SET total = c.total - d.n, unread = c.unread - d.u
    FROM (SELECT person, folder, count(*) AS n, count(*) FILTER (WHERE bits & 1 = 0) AS u
          FROM old_rows GROUP BY person, folder) d
    WHERE c.person = d.person AND c.folder = d.folder;
  ELSE
    INSERT INTO folder_count (person, folder, total, unread)
    SELECT person, folder, sum(n), sum(u) FROM (
      SELECT person, folder, 1 AS n, (bits & 1 = 0)::int AS u FROM new_rows
      UNION ALL SELECT person, folder, -1, -(bits & 1 = 0)::int FROM old_rows) d
    GROUP BY person, folder HAVING sum(n) <> 0 OR sum(u) <> 0
    ON CONFLICT (person, folder) DO UPDATE
      SET total = folder_count.total + excluded.total, unread = folder_count.unread + excluded.unread;
  END IF;
  RETURN NULL;
END $$;--> statement-breakpoint
CREATE TRIGGER count_inserted AFTER INSERT ON message_state
  REFERENCING NEW TABLE AS new_rows FOR EACH STATEMENT EXECUTE FUNCTION count_states();--> statement-breakpoint
CREATE TRIGGER count_updated AFTER UPDATE ON message_state
  REFERENCING OLD TABLE AS old_rows NEW TABLE AS new_rows FOR EACH STATEMENT EXECUTE FUNCTION count_states();--> statement-breakpoint
CREATE TRIGGER count_deleted AFTER DELETE ON message_state
  REFERENCING OLD TABLE AS old_rows FOR EACH STATEMENT EXECUTE FUNCTION count_states();
