CREATE TABLE `lasting_files` (
	`artifact` varchar(64) NOT NULL,
	`address_key` varchar(64) NOT NULL,
	`address` varchar(1300) NOT NULL,
	`file` varchar(64) NOT NULL,
	CONSTRAINT `lasting_files_artifact_address_key_pk` PRIMARY KEY(`artifact`,`address_key`)
);
--> statement-breakpoint
CREATE TABLE `missed_paths` (
	`environment_id` varchar(36) NOT NULL,
	`deploy` int NOT NULL,
	`path_key` varchar(64) NOT NULL,
	`path` varchar(500) NOT NULL,
	`times` bigint NOT NULL,
	`last_at` bigint NOT NULL,
	CONSTRAINT `missed_paths_environment_id_deploy_path_key_pk` PRIMARY KEY(`environment_id`,`deploy`,`path_key`)
);
--> statement-breakpoint
CREATE TABLE `visits` (
	`environment_id` varchar(36) NOT NULL,
	`span` varchar(6) NOT NULL,
	`from` bigint NOT NULL,
	`deploy` int NOT NULL,
	`requests` bigint NOT NULL,
	`bytes` bigint NOT NULL,
	`found` bigint NOT NULL,
	`redirected` bigint NOT NULL,
	`missed` bigint NOT NULL,
	`failed` bigint NOT NULL,
	`slow` bigint NOT NULL,
	CONSTRAINT `visits_environment_id_span_from_deploy_pk` PRIMARY KEY(`environment_id`,`span`,`from`,`deploy`)
);
--> statement-breakpoint
ALTER TABLE `artifacts` ADD `format` int DEFAULT 1 NOT NULL;--> statement-breakpoint
ALTER TABLE `inspections` ADD `leaks` boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE `machines` ADD `formats` varchar(40) DEFAULT '1' NOT NULL;--> statement-breakpoint
ALTER TABLE `machines` ADD `figures` bigint DEFAULT 0 NOT NULL;--> statement-breakpoint
CREATE INDEX `lasting_files_address` ON `lasting_files` (`address_key`,`file`);--> statement-breakpoint
CREATE INDEX `missed_paths_times` ON `missed_paths` (`environment_id`,`deploy`,`times`);--> statement-breakpoint
CREATE INDEX `visits_deploy` ON `visits` (`environment_id`,`span`,`deploy`);--> statement-breakpoint
CREATE INDEX `visits_from` ON `visits` (`span`,`from`);--> statement-breakpoint
CREATE INDEX `deploys_committed` ON `deploys` (`committed_at`);