CREATE TABLE "filed_draft" (
	"person" bigint NOT NULL,
	"message" bigint NOT NULL,
	"account" integer NOT NULL,
	"content" bigint NOT NULL,
	"message_id" text NOT NULL,
	"uid" bigint NOT NULL,
	CONSTRAINT "filed_draft_person_message_pk" PRIMARY KEY("person","message")
);
