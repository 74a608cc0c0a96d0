CREATE TABLE `pull_request_verdicts` (
	`pull_request_id` varchar(36) NOT NULL,
	`project_id` varchar(36) NOT NULL,
	`commit_id` varchar(64) NOT NULL,
	`person_id` varchar(36) NOT NULL,
	`verdict` varchar(12) NOT NULL,
	`says` varchar(500) NOT NULL,
	`at` bigint NOT NULL,
	CONSTRAINT `pull_request_verdicts_once` PRIMARY KEY(`pull_request_id`,`project_id`,`commit_id`,`person_id`)
);
