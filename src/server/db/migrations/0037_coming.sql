CREATE TABLE "coming" (
	"person" bigint NOT NULL,
	"content" bigint NOT NULL,
	"account" integer NOT NULL,
	"date" timestamp (3) with time zone NOT NULL,
	"wanted_at" timestamp (3) with time zone,
	"retry_at" timestamp (3) with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "coming_person_content_pk" PRIMARY KEY("person","content")
);
--> statement-breakpoint
ALTER TABLE "account" ADD COLUMN "looked_at" timestamp (3) with time zone;--> statement-breakpoint
CREATE INDEX "coming_next" ON "coming" USING btree ("person","account","wanted_at" DESC NULLS LAST,"date" DESC NULLS LAST);
--> statement-breakpoint
ALTER TABLE "coming" ENABLE ROW LEVEL SECURITY;
--> statement-breakpoint
CREATE POLICY own ON "coming" USING (person = (SELECT own_person()));
