DROP INDEX "pace_stay_source";--> statement-breakpoint
CREATE INDEX "pace_stay_source" ON "pace_stay" USING btree ("person","place","source","came","gone","by_person","account","message");