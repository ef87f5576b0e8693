CREATE TABLE "simulated_left" (
	"person" bigint NOT NULL,
	"account" integer NOT NULL,
	"n" bigserial NOT NULL,
	"target" text NOT NULL,
	CONSTRAINT "simulated_left_person_account_n_pk" PRIMARY KEY("person","account","n")
);
--> statement-breakpoint
CREATE TABLE "leaving" (
	"person" bigint NOT NULL,
	"source" text NOT NULL,
	"how" text NOT NULL,
	"target" text NOT NULL,
	"account" integer NOT NULL,
	"state" text NOT NULL,
	"at" timestamp (3) with time zone NOT NULL,
	"attempt" smallint DEFAULT 0 NOT NULL,
	"said" text,
	CONSTRAINT "leaving_person_source_pk" PRIMARY KEY("person","source")
);
--> statement-breakpoint
CREATE INDEX "leaving_at" ON "leaving" USING btree ("at");