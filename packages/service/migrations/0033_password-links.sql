CREATE TABLE `password_links` (
	`hash` varchar(64) NOT NULL,
	`person_id` varchar(36) NOT NULL,
	`made_by` varchar(36) NOT NULL,
	`made_at` bigint NOT NULL,
	`expires_at` bigint NOT NULL,
	`used_at` bigint,
	`ended_at` bigint,
	CONSTRAINT `password_links_hash` PRIMARY KEY(`hash`)
);
--> statement-breakpoint
CREATE INDEX `password_links_person` ON `password_links` (`person_id`);