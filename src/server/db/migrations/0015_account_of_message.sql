ALTER TABLE "message" ADD COLUMN "account" integer DEFAULT 0 NOT NULL;--> statement-breakpoint
UPDATE "message" m SET "account" = p."account" FROM "placement" p WHERE p."person" = m."person" AND p."message" = m."id";--> statement-breakpoint
UPDATE "account" SET "name" = 'simulated' WHERE "kind" = 'simulated' AND "name" = '';
