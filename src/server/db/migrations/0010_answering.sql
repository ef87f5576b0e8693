CREATE TABLE "contact_group" (
	"person" bigint NOT NULL,
	"id" serial NOT NULL,
	"name" text NOT NULL,
	"members" text[] DEFAULT '{}' NOT NULL,
	CONSTRAINT "contact_group_person_id_pk" PRIMARY KEY("person","id")
);
--> statement-breakpoint
CREATE TABLE "draft_file" (
	"person" bigint NOT NULL,
	"id" serial NOT NULL,
	"message" bigint NOT NULL,
	"name" text NOT NULL,
	"type" text NOT NULL,
	"data" "bytea" NOT NULL,
	CONSTRAINT "draft_file_person_id_pk" PRIMARY KEY("person","id")
);
--> statement-breakpoint
CREATE TABLE "draft" (
	"person" bigint NOT NULL,
	"message" bigint NOT NULL,
	"kind" text NOT NULL,
	"answers" bigint,
	"sender" jsonb NOT NULL,
	"recipients" jsonb NOT NULL,
	"cc" jsonb NOT NULL,
	"bcc" jsonb NOT NULL,
	"subject" text NOT NULL,
	"body" jsonb NOT NULL,
	"plain" boolean DEFAULT false NOT NULL,
	"message_id" text NOT NULL,
	"in_reply_to" text,
	"thread_ids" text[] DEFAULT '{}' NOT NULL,
	"list" text DEFAULT '' NOT NULL,
	"send_at" timestamp (3) with time zone,
	"sent" integer,
	"sent_too" boolean DEFAULT false NOT NULL,
	"version" integer DEFAULT 1 NOT NULL,
	"updated_at" timestamp (3) with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "draft_person_message_pk" PRIMARY KEY("person","message")
);
--> statement-breakpoint
CREATE TABLE "held" (
	"person" bigint NOT NULL,
	"message" bigint NOT NULL,
	"account" integer,
	"state" text NOT NULL,
	"at" timestamp (3) with time zone NOT NULL,
	"attempt" integer DEFAULT 0 NOT NULL,
	"tried_since" timestamp (3) with time zone,
	"mail_from" text NOT NULL,
	"recipients" jsonb NOT NULL,
	"said" text,
	CONSTRAINT "held_person_message_pk" PRIMARY KEY("person","message")
);
--> statement-breakpoint
CREATE TABLE "identity" (
	"person" bigint NOT NULL,
	"id" serial NOT NULL,
	"name" text NOT NULL,
	"address" text NOT NULL,
	"signature" text DEFAULT '' NOT NULL,
	"position" integer DEFAULT 0 NOT NULL,
	CONSTRAINT "identity_person_id_pk" PRIMARY KEY("person","id")
);
--> statement-breakpoint
CREATE TABLE "pause" (
	"person" bigint NOT NULL,
	"draft" bigint NOT NULL,
	"run" uuid NOT NULL,
	"message" bigint NOT NULL,
	"at" text NOT NULL,
	"macro" text NOT NULL,
	CONSTRAINT "pause_person_draft_pk" PRIMARY KEY("person","draft")
);
--> statement-breakpoint
CREATE TABLE "simulated_sent" (
	"person" bigint NOT NULL,
	"account" integer NOT NULL,
	"id" bigserial NOT NULL,
	"mail_from" text NOT NULL,
	"recipient" text NOT NULL,
	"message_id" text,
	"raw" "bytea" NOT NULL,
	"at" timestamp (3) with time zone DEFAULT now() NOT NULL,
	"comes" text,
	"comes_at" timestamp (3) with time zone,
	CONSTRAINT "simulated_sent_person_account_id_pk" PRIMARY KEY("person","account","id")
);
--> statement-breakpoint
CREATE TABLE "template" (
	"person" bigint NOT NULL,
	"id" serial NOT NULL,
	"name" text NOT NULL,
	"folder" text DEFAULT '' NOT NULL,
	"subject" text DEFAULT '' NOT NULL,
	"body" jsonb NOT NULL,
	"position" integer DEFAULT 0 NOT NULL,
	CONSTRAINT "template_person_id_pk" PRIMARY KEY("person","id")
);
--> statement-breakpoint
CREATE TABLE "written_to" (
	"person" bigint NOT NULL,
	"address" text NOT NULL,
	"name" text NOT NULL,
	"times" integer DEFAULT 1 NOT NULL,
	"last" timestamp (3) with time zone NOT NULL,
	CONSTRAINT "written_to_person_address_pk" PRIMARY KEY("person","address")
);
--> statement-breakpoint
ALTER TABLE "contact" ADD COLUMN "note" text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE "simulator" ADD COLUMN "answers" real DEFAULT 0.6 NOT NULL;--> statement-breakpoint
ALTER TABLE "simulator" ADD COLUMN "bounces" real DEFAULT 0.03 NOT NULL;--> statement-breakpoint
ALTER TABLE "simulator" ADD COLUMN "answer_after" integer DEFAULT 180 NOT NULL;--> statement-breakpoint
ALTER TABLE "simulator" ADD COLUMN "utf8" boolean DEFAULT true NOT NULL;--> statement-breakpoint
CREATE UNIQUE INDEX "contact_group_name" ON "contact_group" USING btree ("person",lower("name"));--> statement-breakpoint
CREATE INDEX "draft_file_message" ON "draft_file" USING btree ("person","message");--> statement-breakpoint
CREATE INDEX "held_due" ON "held" USING btree ("at") WHERE state in ('waiting', 'later', 'sending');--> statement-breakpoint
CREATE INDEX "pause_run" ON "pause" USING btree ("person","run");--> statement-breakpoint
CREATE INDEX "simulated_sent_comes" ON "simulated_sent" USING btree ("comes_at") WHERE comes_at is not null;--> statement-breakpoint
CREATE UNIQUE INDEX "template_name" ON "template" USING btree ("person",lower("name"));--> statement-breakpoint
CREATE INDEX "ledger_of" ON "ledger" USING btree ("person","of") WHERE of is not null;--> statement-breakpoint
-- Everybody gets a folder for what is on its way; where the name is taken, another one.
INSERT INTO folder (person, path, role)
SELECT p.id, CASE WHEN EXISTS (
    SELECT 1 FROM folder f WHERE f.person = p.id AND NOT f.removed AND lower(f.path) = 'outbox')
  THEN 'Outbox (on its way)' ELSE 'Outbox' END, 'outbox'
FROM person p;
--> statement-breakpoint
-- Whom people write as: their name, at each of their addresses.
INSERT INTO identity (person, name, address, position)
SELECT p.id, p.name, a.address, a.n
FROM person p, LATERAL (
  SELECT p.address, 0 AS n
  UNION ALL
  SELECT value, ordinality::int FROM jsonb_array_elements_text(COALESCE(p.settings->'aliases', '[]')) WITH ORDINALITY) a
WHERE a.address LIKE '%@%';
--> statement-breakpoint
-- Whom they have written to, from the mail that is here (bit 64 of the traits: the person's own).
INSERT INTO written_to (person, address, name, times, last)
SELECT person, address, (array_agg(name ORDER BY length(name) DESC))[1], count(*), max(date)
FROM (SELECT m.person, m.date, lower(r->>'address') AS address, r->>'name' AS name
  FROM message m, jsonb_array_elements(m.recipients || m.cc) r WHERE m.traits & 64 <> 0) w
WHERE address LIKE '%_@_%' GROUP BY person, address;
