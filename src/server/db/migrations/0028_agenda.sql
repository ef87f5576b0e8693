CREATE TABLE "calendar" (
	"person" bigint NOT NULL,
	"id" bigserial NOT NULL,
	"name" text NOT NULL,
	"colour" text NOT NULL,
	"secret" text,
	CONSTRAINT "calendar_person_id_pk" PRIMARY KEY("person","id")
);
--> statement-breakpoint
CREATE TABLE "event" (
	"person" bigint NOT NULL,
	"id" bigserial NOT NULL,
	"message" bigint,
	"calendar" bigint NOT NULL,
	"uid" text NOT NULL,
	"instead" text,
	"task" bigint,
	"starts" timestamp (3) with time zone NOT NULL,
	"ends" timestamp (3) with time zone,
	"value" jsonb NOT NULL,
	CONSTRAINT "event_person_id_pk" PRIMARY KEY("person","id")
);
--> statement-breakpoint
CREATE UNIQUE INDEX "calendar_secret" ON "calendar" USING btree ("secret");--> statement-breakpoint
CREATE INDEX "event_starts" ON "event" USING btree ("person","starts");--> statement-breakpoint
CREATE INDEX "event_uid" ON "event" USING btree ("person","uid");--> statement-breakpoint
CREATE INDEX "event_instead" ON "event" USING btree ("person","uid") WHERE instead is not null;--> statement-breakpoint
CREATE INDEX "event_task" ON "event" USING btree ("person","task");--> statement-breakpoint
CREATE INDEX "event_calendar" ON "event" USING btree ("person","calendar");--> statement-breakpoint
INSERT INTO "calendar" ("person", "name", "colour") SELECT "id", 'Own', 'spruce' FROM "person";
