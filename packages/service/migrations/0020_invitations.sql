CREATE TABLE `invitations` (
	`id` varchar(36) NOT NULL,
	`hash` varchar(64) NOT NULL,
	`project_id` varchar(36),
	`role` varchar(20) NOT NULL,
	`person_id` varchar(36) NOT NULL,
	`made_at` bigint NOT NULL,
	`expires_at` bigint NOT NULL,
	`over_at` bigint,
	`used_by` varchar(36),
	CONSTRAINT `invitations_id` PRIMARY KEY(`id`),
	CONSTRAINT `invitations_hash` UNIQUE(`hash`)
);
--> statement-breakpoint
CREATE INDEX `invitations_project` ON `invitations` (`project_id`,`over_at`);