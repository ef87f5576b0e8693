CREATE TABLE "simulated_report" (
	"person" bigint NOT NULL,
	"account" integer NOT NULL,
	"n" bigserial NOT NULL,
	"message_id" text,
	"told_as" text NOT NULL,
	CONSTRAINT "simulated_report_person_account_n_pk" PRIMARY KEY("person","account","n")
);
--> statement-breakpoint
CREATE TABLE "report" (
	"person" bigint NOT NULL,
	"message" bigint NOT NULL,
	"told_as" text NOT NULL,
	"state" text NOT NULL,
	"at" timestamp (3) with time zone NOT NULL,
	CONSTRAINT "report_person_message_pk" PRIMARY KEY("person","message")
);
--> statement-breakpoint
CREATE INDEX "report_at" ON "report" USING btree ("at");