CREATE TABLE "filing_due" (
	"person" bigint NOT NULL,
	"n" bigserial NOT NULL,
	"message" bigint NOT NULL,
	"arrived" boolean NOT NULL,
	CONSTRAINT "filing_due_person_n_pk" PRIMARY KEY("person","n")
);
--> statement-breakpoint
CREATE TABLE "filing_journal" (
	"person" bigint NOT NULL,
	"n" bigserial NOT NULL,
	"by" smallint NOT NULL,
	"receipt" text NOT NULL,
	CONSTRAINT "filing_journal_person_n_pk" PRIMARY KEY("person","n")
);
--> statement-breakpoint
CREATE TABLE "filing_receipt" (
	"person" bigint NOT NULL,
	"message" bigint NOT NULL,
	"folder" integer NOT NULL,
	"learned_at" timestamp (3) with time zone NOT NULL,
	"receipt" text NOT NULL,
	"left_at" timestamp (3) with time zone,
	CONSTRAINT "filing_receipt_person_message_folder_pk" PRIMARY KEY("person","message","folder")
);
--> statement-breakpoint
CREATE TABLE "filing" (
	"person" bigint PRIMARY KEY NOT NULL,
	"epoch" uuid DEFAULT gen_random_uuid() NOT NULL,
	"method" smallint DEFAULT 0 NOT NULL,
	"kept" text,
	"through" bigint DEFAULT 0 NOT NULL
);
--> statement-breakpoint
ALTER TABLE "filing" ALTER COLUMN "kept" SET COMPRESSION lz4;--> statement-breakpoint
-- Mail is filed into folders of the person's own: archiving and trashing thousands has nothing to note.
CREATE FUNCTION note_filing() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  IF TG_OP = 'INSERT' THEN
    INSERT INTO filing_due (person, message, arrived)
    SELECT n.person, n.message, true FROM new_rows n
    JOIN folder f ON f.person = n.person AND f.id = n.folder AND f.role IS NULL WHERE n.sender <> 0;
  ELSE
    INSERT INTO filing_due (person, message, arrived)
    SELECT n.person, n.message, false FROM new_rows n
    JOIN old_rows o ON o.person = n.person AND o.message = n.message AND o.folder <> n.folder
    WHERE n.sender <> 0 AND EXISTS (SELECT FROM folder f
      WHERE f.person = n.person AND f.id IN (o.folder, n.folder) AND f.role IS NULL);
  END IF;
  RETURN NULL;
END $$;--> statement-breakpoint
CREATE TRIGGER filing_inserted AFTER INSERT ON message_state
  REFERENCING NEW TABLE AS new_rows FOR EACH STATEMENT EXECUTE FUNCTION note_filing();--> statement-breakpoint
CREATE TRIGGER filing_updated AFTER UPDATE ON message_state
  REFERENCING OLD TABLE AS old_rows NEW TABLE AS new_rows FOR EACH STATEMENT EXECUTE FUNCTION note_filing();--> statement-breakpoint
INSERT INTO filing_due (person, message, arrived)
SELECT s.person, s.message, true FROM message_state s
JOIN folder f ON f.person = s.person AND f.id = s.folder AND f.role IS NULL WHERE s.sender <> 0;
