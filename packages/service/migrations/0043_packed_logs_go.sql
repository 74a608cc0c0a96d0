ALTER TABLE `attempts` DROP COLUMN `packed_log`;--> statement-breakpoint
ALTER TABLE `attempts` DROP COLUMN `segments`;