CREATE TABLE `repository_keys` (
	`id` varchar(36) NOT NULL,
	`place` varchar(1000) NOT NULL,
	`public_key` varchar(1000) NOT NULL,
	`sealed` longblob NOT NULL,
	`host_keys` json NOT NULL,
	`made_by` varchar(36) NOT NULL,
	`made_at` bigint NOT NULL,
	CONSTRAINT `repository_keys_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
ALTER TABLE `repository_credentials` ADD `kind` varchar(5) DEFAULT 'token' NOT NULL;--> statement-breakpoint
ALTER TABLE `repository_credentials` ADD `public_key` varchar(1000);--> statement-breakpoint
ALTER TABLE `repository_credentials` ADD `host_key` varchar(4000);--> statement-breakpoint
CREATE INDEX `repository_keys_made` ON `repository_keys` (`made_at`);