CREATE TABLE "due" (
	"person" bigint NOT NULL,
	"message" bigint NOT NULL,
	"writes" integer DEFAULT 1 NOT NULL,
	CONSTRAINT "due_person_message_pk" PRIMARY KEY("person","message")
);
--> statement-breakpoint
CREATE TABLE "mailbox" (
	"person" bigint NOT NULL,
	"id" serial NOT NULL,
	"account" integer NOT NULL,
	"path" text NOT NULL,
	"folder" integer NOT NULL,
	"validity" bigint DEFAULT 0 NOT NULL,
	"next_uid" bigint DEFAULT 0 NOT NULL,
	"modseq" bigint DEFAULT 0 NOT NULL,
	"messages" integer DEFAULT 0 NOT NULL,
	"is_whole" boolean DEFAULT false NOT NULL,
	CONSTRAINT "mailbox_person_id_pk" PRIMARY KEY("person","id")
);
--> statement-breakpoint
CREATE TABLE "placement" (
	"person" bigint NOT NULL,
	"message" bigint NOT NULL,
	"account" integer NOT NULL,
	"mailbox" integer NOT NULL,
	"folder" integer NOT NULL,
	"uid" bigint,
	"read" boolean NOT NULL,
	"flagged" boolean NOT NULL,
	"answered" boolean NOT NULL,
	"words" text[] DEFAULT '{}' NOT NULL,
	"refused" text,
	CONSTRAINT "placement_person_message_pk" PRIMARY KEY("person","message")
);
--> statement-breakpoint
ALTER TABLE "account" ADD COLUMN "name" text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE "account" ADD COLUMN "address" text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE "account" ADD COLUMN "servers" jsonb;--> statement-breakpoint
ALTER TABLE "account" ADD COLUMN "secret" "bytea";--> statement-breakpoint
ALTER TABLE "account" ADD COLUMN "since" timestamp (3) with time zone;--> statement-breakpoint
ALTER TABLE "account" ADD COLUMN "is_paused" boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE "account" ADD COLUMN "asked_at" timestamp (3) with time zone;--> statement-breakpoint
ALTER TABLE "account" ADD COLUMN "doing" text;--> statement-breakpoint
ALTER TABLE "account" ADD COLUMN "done" integer DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE "account" ADD COLUMN "total" integer DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE "account" ADD COLUMN "look_at" timestamp (3) with time zone;--> statement-breakpoint
CREATE UNIQUE INDEX "mailbox_path" ON "mailbox" USING btree ("person","account","path");--> statement-breakpoint
CREATE UNIQUE INDEX "placement_uid" ON "placement" USING btree ("person","mailbox","uid");--> statement-breakpoint
CREATE INDEX "placement_loose" ON "placement" USING btree ("person","account") WHERE uid is null;--> statement-breakpoint
CREATE FUNCTION note_due() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  -- Most people have no account with a server: then there is nothing to look for.
  IF NOT EXISTS (SELECT FROM placement LIMIT 1) THEN RETURN NULL; END IF;
  IF TG_OP = 'DELETE' THEN
    INSERT INTO due (person, message)
    SELECT o.person, o.message FROM old_rows o JOIN placement p ON p.person = o.person AND p.message = o.message
    ON CONFLICT (person, message) DO UPDATE SET writes = due.writes + 1;
  ELSE
    INSERT INTO due (person, message)
    SELECT n.person, n.message FROM new_rows n
      JOIN old_rows o ON o.person = n.person AND o.message = n.message
      JOIN placement p ON p.person = n.person AND p.message = n.message
    WHERE n.folder <> o.folder OR n.bits & 9 <> o.bits & 9 OR n.marker <> o.marker OR n.labels <> o.labels
    ON CONFLICT (person, message) DO UPDATE SET writes = due.writes + 1;
  END IF;
  RETURN NULL;
END $$;--> statement-breakpoint
CREATE TRIGGER due_updated AFTER UPDATE ON message_state
  REFERENCING OLD TABLE AS old_rows NEW TABLE AS new_rows FOR EACH STATEMENT EXECUTE FUNCTION note_due();--> statement-breakpoint
CREATE TRIGGER due_deleted AFTER DELETE ON message_state
  REFERENCING OLD TABLE AS old_rows FOR EACH STATEMENT EXECUTE FUNCTION note_due();
