CREATE TABLE `pull_request_words` (
	`pull_request_id` varchar(36) NOT NULL,
	`project_id` varchar(36) NOT NULL,
	`commit_id` varchar(64) NOT NULL,
	`person_id` varchar(36) NOT NULL,
	`at` bigint NOT NULL,
	CONSTRAINT `pull_request_words_pull_request_id_project_id_commit_id_pk` PRIMARY KEY(`pull_request_id`,`project_id`,`commit_id`)
);
--> statement-breakpoint
CREATE TABLE `pull_requests` (
	`id` varchar(36) NOT NULL,
	`repository_id` varchar(36) NOT NULL,
	`number` int NOT NULL,
	`title` varchar(200) NOT NULL,
	`into_branch` varchar(250) NOT NULL,
	`from_place` varchar(1000),
	`from_branch` varchar(250) NOT NULL,
	`state` varchar(10) NOT NULL DEFAULT 'open',
	`head` varchar(64),
	`person_id` varchar(36) NOT NULL,
	`opened_at` bigint NOT NULL,
	`ended_at` bigint,
	`trouble` varchar(1000),
	CONSTRAINT `pull_requests_id` PRIMARY KEY(`id`),
	CONSTRAINT `pull_requests_number` UNIQUE(`repository_id`,`number`)
);
--> statement-breakpoint
ALTER TABLE `builds` ADD `proposed_into` varchar(250);--> statement-breakpoint
ALTER TABLE `builds` ADD `trust` varchar(10) DEFAULT 'trusted' NOT NULL;--> statement-breakpoint
ALTER TABLE `repositories` ADD `last_pull_request` int DEFAULT 0 NOT NULL;