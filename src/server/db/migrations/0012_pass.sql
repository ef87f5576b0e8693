CREATE TABLE "pass_deed" (
	"person" bigint NOT NULL,
	"pass" uuid NOT NULL,
	"message" bigint NOT NULL,
	"run" uuid NOT NULL,
	"macro" text NOT NULL,
	"ms" integer NOT NULL,
	"at" timestamp (3) with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "pass_deed_person_pass_message_run_pk" PRIMARY KEY("person","pass","message","run")
);
--> statement-breakpoint
CREATE TABLE "pass" (
	"person" bigint NOT NULL,
	"id" uuid NOT NULL,
	"name" text NOT NULL,
	"narrow" jsonb NOT NULL,
	"order" text NOT NULL,
	"queue" bigint[] NOT NULL,
	"through" bigint NOT NULL,
	"skipped" bigint[] DEFAULT '{}' NOT NULL,
	"at" bigint,
	"limit_minutes" integer,
	"started_at" timestamp (3) with time zone DEFAULT now() NOT NULL,
	"ended_at" timestamp (3) with time zone,
	CONSTRAINT "pass_person_id_pk" PRIMARY KEY("person","id")
);
--> statement-breakpoint
CREATE INDEX "pass_started" ON "pass" USING btree ("person","started_at");
--> statement-breakpoint
-- P starts a pass. Who had put P on a deck before, or began keys in a row with it, keeps that.
UPDATE person p SET settings = jsonb_set(settings, '{frame}', COALESCE(settings->'frame', '{}') || '{"pass": []}')
WHERE NOT COALESCE(settings->'frame', '{}') ? 'pass' AND EXISTS (
  SELECT FROM deck d WHERE d.person = p.id AND (d.pads::text LIKE '%"KeyP%' OR d.extra::text LIKE '%"KeyP%'));
