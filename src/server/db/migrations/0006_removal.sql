DROP INDEX "folder_path";--> statement-breakpoint
DROP INDEX "label_name";--> statement-breakpoint
ALTER TABLE "folder" ADD COLUMN "removed" boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE "folder" ADD COLUMN "removed_by" uuid;--> statement-breakpoint
ALTER TABLE "label" ADD COLUMN "removed" boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE "label" ADD COLUMN "removed_by" uuid;--> statement-breakpoint
CREATE UNIQUE INDEX "folder_path" ON "folder" USING btree ("person",lower("path")) WHERE not removed;--> statement-breakpoint
CREATE UNIQUE INDEX "label_name" ON "label" USING btree ("person",lower("name")) WHERE not removed;