CREATE TABLE "taken_out" (
	"person" bigint NOT NULL,
	"kind" text NOT NULL,
	"id" integer NOT NULL,
	"row" jsonb NOT NULL,
	"at" timestamp (3) with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "taken_out_person_kind_id_pk" PRIMARY KEY("person","kind","id")
);
--> statement-breakpoint
ALTER TABLE "taken_out" ENABLE ROW LEVEL SECURITY;
--> statement-breakpoint
CREATE POLICY own ON "taken_out" USING (person = (SELECT own_person()));
