ALTER TABLE `keyed_calls` DROP COLUMN `status`;--> statement-breakpoint
ALTER TABLE `keyed_calls` DROP COLUMN `reply`;