ALTER TABLE `environments` ADD `started_at` bigint;--> statement-breakpoint
ALTER TABLE `environments` ADD `visited_at` bigint;--> statement-breakpoint
ALTER TABLE `environments` ADD `acted_at` bigint;--> statement-breakpoint
ALTER TABLE `environments` ADD `kept_until` bigint;--> statement-breakpoint
ALTER TABLE `environments` ADD `kept_by` varchar(36);--> statement-breakpoint
ALTER TABLE `environments` ADD `kept_why` varchar(500);