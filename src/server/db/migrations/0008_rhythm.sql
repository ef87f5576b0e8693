CREATE TABLE "timer" (
	"person" bigint NOT NULL,
	"kind" text NOT NULL,
	"ref" bigint NOT NULL,
	"at" timestamp (3) with time zone NOT NULL,
	CONSTRAINT "timer_person_kind_ref_pk" PRIMARY KEY("person","kind","ref")
);
--> statement-breakpoint
CREATE INDEX "timer_at" ON "timer" USING btree ("at");--> statement-breakpoint
ALTER TABLE "message_state" ADD COLUMN "back_since" timestamp (3) with time zone;--> statement-breakpoint
-- What was deferred before there were timers comes back too: at once, where its time has passed.
INSERT INTO timer (person, kind, ref, at)
SELECT person, 'wake', message, defer_until FROM message_state WHERE defer_until IS NOT NULL;--> statement-breakpoint
ALTER TABLE "thread_subject" DROP CONSTRAINT "thread_subject_person_subject_pk";--> statement-breakpoint
ALTER TABLE "thread_subject" ADD COLUMN "address" text;--> statement-breakpoint
ALTER TABLE "thread_subject" ADD COLUMN "seen" timestamp (3) with time zone;--> statement-breakpoint
-- A subject alone joins nothing any more: it is known by whom it was met with, and when.
INSERT INTO thread_subject (person, subject, thread, address, seen)
SELECT t.person, t.subject, t.thread, lower(m.from_address), max(m.date) FROM thread_subject t
JOIN message m ON m.person = t.person AND m.thread = t.thread WHERE m.traits & 64 = 0 GROUP BY 1, 2, 3, 4;--> statement-breakpoint
DELETE FROM thread_subject WHERE address IS NULL;--> statement-breakpoint
ALTER TABLE "thread_subject" ALTER COLUMN "address" SET NOT NULL;--> statement-breakpoint
ALTER TABLE "thread_subject" ALTER COLUMN "seen" SET NOT NULL;--> statement-breakpoint
ALTER TABLE "thread_subject" ADD CONSTRAINT "thread_subject_person_subject_address_pk" PRIMARY KEY("person","subject","address");--> statement-breakpoint
ALTER TABLE "ledger" ADD COLUMN "about" text DEFAULT '' NOT NULL;
