CREATE TABLE "sign_in_attempt" (
	"what" text PRIMARY KEY NOT NULL,
	"count" integer NOT NULL,
	"at" timestamp (3) with time zone NOT NULL,
	"until" timestamp (3) with time zone NOT NULL
);
--> statement-breakpoint
CREATE TABLE "challenge" (
	"hash" "bytea" PRIMARY KEY NOT NULL,
	"person" bigint,
	"ends_at" timestamp (3) with time zone NOT NULL
);
--> statement-breakpoint
CREATE TABLE "once_link" (
	"person" bigint NOT NULL,
	"hash" "bytea" NOT NULL,
	"kind" text NOT NULL,
	"ends_at" timestamp (3) with time zone NOT NULL,
	CONSTRAINT "once_link_person_hash_pk" PRIMARY KEY("person","hash")
);
--> statement-breakpoint
CREATE TABLE "passkey" (
	"person" bigint NOT NULL,
	"id" text NOT NULL,
	"public_key" "bytea" NOT NULL,
	"uses" bigint NOT NULL,
	"transports" text NOT NULL,
	"name" text NOT NULL,
	"created_at" timestamp (3) with time zone DEFAULT now() NOT NULL,
	"used_at" timestamp (3) with time zone,
	CONSTRAINT "passkey_person_id_pk" PRIMARY KEY("person","id")
);
--> statement-breakpoint
CREATE TABLE "recovery_code" (
	"person" bigint NOT NULL,
	"hash" "bytea" NOT NULL,
	CONSTRAINT "recovery_code_person_hash_pk" PRIMARY KEY("person","hash")
);
--> statement-breakpoint
CREATE TABLE "session" (
	"person" bigint NOT NULL,
	"id" uuid DEFAULT gen_random_uuid() NOT NULL,
	"hash" "bytea" NOT NULL,
	"way" text NOT NULL,
	"agent" text NOT NULL,
	"created_at" timestamp (3) with time zone DEFAULT now() NOT NULL,
	"seen_at" timestamp (3) with time zone DEFAULT now() NOT NULL,
	"ends_at" timestamp (3) with time zone NOT NULL,
	CONSTRAINT "session_person_id_pk" PRIMARY KEY("person","id")
);
--> statement-breakpoint
CREATE TABLE "sign_in" (
	"person" bigint PRIMARY KEY NOT NULL,
	"address" text NOT NULL,
	"password" text,
	"changed_at" timestamp (3) with time zone DEFAULT now() NOT NULL,
	"code_secret" "bytea",
	"code_since" timestamp (3) with time zone,
	"code_step" bigint DEFAULT 0 NOT NULL
);
--> statement-breakpoint
CREATE INDEX "sign_in_attempt_at" ON "sign_in_attempt" USING btree ("at");--> statement-breakpoint
CREATE INDEX "challenge_ends" ON "challenge" USING btree ("ends_at");--> statement-breakpoint
CREATE UNIQUE INDEX "session_hash" ON "session" USING btree ("person","hash");--> statement-breakpoint
CREATE INDEX "session_ends" ON "session" USING btree ("ends_at");--> statement-breakpoint
CREATE UNIQUE INDEX "sign_in_address" ON "sign_in" USING btree (lower("address"));