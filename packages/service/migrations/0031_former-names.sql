CREATE TABLE `former_names` (
	`id` varchar(36) NOT NULL,
	`project_id` varchar(36) NOT NULL,
	`environment_id` varchar(36),
	`name` varchar(40) NOT NULL,
	`at` bigint NOT NULL,
	CONSTRAINT `former_names_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
ALTER TABLE `projects` ADD `ended_at` bigint;--> statement-breakpoint
CREATE INDEX `former_names_name` ON `former_names` (`name`,`at`);--> statement-breakpoint
CREATE INDEX `former_names_at` ON `former_names` (`at`);