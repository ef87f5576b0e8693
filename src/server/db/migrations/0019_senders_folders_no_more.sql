DROP TRIGGER file_inserted ON message_state;--> statement-breakpoint
DROP TRIGGER file_updated ON message_state;--> statement-breakpoint
DROP TRIGGER file_deleted ON message_state;--> statement-breakpoint
DROP FUNCTION file_states();--> statement-breakpoint
DROP TABLE "filed" CASCADE;