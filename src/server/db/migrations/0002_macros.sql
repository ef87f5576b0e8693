CREATE TABLE "blocked" (
	"person" bigint NOT NULL,
	"address" text NOT NULL,
	CONSTRAINT "blocked_person_address_pk" PRIMARY KEY("person","address")
);
--> statement-breakpoint
CREATE TABLE "contact" (
	"person" bigint NOT NULL,
	"address" text NOT NULL,
	"name" text NOT NULL,
	CONSTRAINT "contact_person_address_pk" PRIMARY KEY("person","address")
);
--> statement-breakpoint
CREATE TABLE "task" (
	"person" bigint NOT NULL,
	"id" bigserial NOT NULL,
	"message" bigint,
	"title" text NOT NULL,
	"due" timestamp (3) with time zone,
	"estimate" integer,
	"about" text NOT NULL,
	"done" boolean DEFAULT false NOT NULL,
	"created_at" timestamp (3) with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "task_person_id_pk" PRIMARY KEY("person","id")
);
--> statement-breakpoint
ALTER TABLE "ledger" ADD COLUMN "lowest" bigint;--> statement-breakpoint
ALTER TABLE "ledger" ADD COLUMN "highest" bigint;--> statement-breakpoint
ALTER TABLE "macro" ADD COLUMN "settings" jsonb DEFAULT '{}'::jsonb NOT NULL;--> statement-breakpoint
ALTER TABLE "macro" ADD COLUMN "uses" integer DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE "macro" ADD COLUMN "used_at" timestamp (3) with time zone;--> statement-breakpoint
CREATE INDEX "task_message" ON "task" USING btree ("person","message");