CREATE TABLE "account" (
	"person" bigint NOT NULL,
	"id" serial NOT NULL,
	"kind" text NOT NULL,
	"mark" bigint DEFAULT 0 NOT NULL,
	"trouble" text,
	"retry_at" timestamp (3) with time zone DEFAULT now() NOT NULL,
	"failures" integer DEFAULT 0 NOT NULL,
	CONSTRAINT "account_person_id_pk" PRIMARY KEY("person","id")
);
--> statement-breakpoint
CREATE TABLE "simulated_mail" (
	"person" bigint NOT NULL,
	"account" integer NOT NULL,
	"uid" bigserial NOT NULL,
	"raw" "bytea" NOT NULL,
	CONSTRAINT "simulated_mail_person_account_uid_pk" PRIMARY KEY("person","account","uid")
);
--> statement-breakpoint
CREATE TABLE "simulator" (
	"person" bigint NOT NULL,
	"account" integer NOT NULL,
	"rate" real NOT NULL,
	"mode" text DEFAULT 'well' NOT NULL,
	"made" integer DEFAULT 0 NOT NULL,
	"asked" integer DEFAULT 0 NOT NULL,
	"next_at" timestamp (3) with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "simulator_person_account_pk" PRIMARY KEY("person","account")
);
--> statement-breakpoint
CREATE INDEX "simulator_next" ON "simulator" USING btree ("next_at");