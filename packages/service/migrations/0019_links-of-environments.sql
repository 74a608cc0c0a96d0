ALTER TABLE `environments` ADD `link_hash` varchar(64);--> statement-breakpoint
ALTER TABLE `environments` ADD `link_by` varchar(36);--> statement-breakpoint
ALTER TABLE `environments` ADD `link_at` bigint;