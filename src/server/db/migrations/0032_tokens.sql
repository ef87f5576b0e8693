CREATE TABLE "token" (
	"person" bigint NOT NULL,
	"id" uuid DEFAULT gen_random_uuid() NOT NULL,
	"hash" "bytea" NOT NULL,
	"name" text NOT NULL,
	"scopes" text NOT NULL,
	"created_at" timestamp (3) with time zone DEFAULT now() NOT NULL,
	"used_at" timestamp (3) with time zone,
	"ends_at" timestamp (3) with time zone,
	CONSTRAINT "token_person_id_pk" PRIMARY KEY("person","id")
);
--> statement-breakpoint
CREATE UNIQUE INDEX "token_hash" ON "token" USING btree ("person","hash");