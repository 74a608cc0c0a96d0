CREATE TABLE `group_members` (
	`group_id` varchar(36) NOT NULL,
	`person_id` varchar(36) NOT NULL,
	`since` bigint NOT NULL,
	CONSTRAINT `group_members_group_id_person_id_pk` PRIMARY KEY(`group_id`,`person_id`)
);
--> statement-breakpoint
ALTER TABLE `people` ADD `kind` varchar(10) DEFAULT 'person' NOT NULL;--> statement-breakpoint
ALTER TABLE `people` ADD `home_id` varchar(36);--> statement-breakpoint
ALTER TABLE `people` ADD `ended_at` bigint;--> statement-breakpoint
CREATE INDEX `group_members_person` ON `group_members` (`person_id`);--> statement-breakpoint
CREATE INDEX `people_home` ON `people` (`home_id`);