CREATE TABLE `evidence` (
	`id` varchar(36) NOT NULL,
	`project_id` varchar(36) NOT NULL,
	`build_id` varchar(36) NOT NULL,
	`step` varchar(60) NOT NULL,
	`kind` varchar(20) NOT NULL,
	`path` varchar(500) NOT NULL,
	`content` json NOT NULL,
	`at` bigint NOT NULL,
	CONSTRAINT `evidence_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
CREATE TABLE `file_findings` (
	`file` varchar(64) NOT NULL,
	`rules` int NOT NULL,
	`facts` json NOT NULL,
	CONSTRAINT `file_findings_file_rules_pk` PRIMARY KEY(`file`,`rules`)
);
--> statement-breakpoint
CREATE TABLE `inspections` (
	`project_id` varchar(36) NOT NULL,
	`artifact` varchar(64) NOT NULL,
	`findings` json NOT NULL,
	`at` bigint NOT NULL,
	`took_ms` bigint NOT NULL,
	CONSTRAINT `inspections_project_id_artifact_pk` PRIMARY KEY(`project_id`,`artifact`)
);
--> statement-breakpoint
CREATE TABLE `provenances` (
	`project_id` varchar(36) NOT NULL,
	`build_id` varchar(36) NOT NULL,
	`artifact` varchar(64) NOT NULL,
	`envelope` longblob NOT NULL,
	CONSTRAINT `provenances_project_id_build_id_pk` PRIMARY KEY(`project_id`,`build_id`)
);
--> statement-breakpoint
CREATE TABLE `step_results` (
	`project_id` varchar(36) NOT NULL,
	`key` varchar(64) NOT NULL,
	`output` varchar(64) NOT NULL,
	`build_id` varchar(36) NOT NULL,
	`step` varchar(60) NOT NULL,
	`files` int NOT NULL,
	`bytes` bigint NOT NULL,
	`took_ms` bigint NOT NULL,
	`at` bigint NOT NULL,
	CONSTRAINT `step_results_project_id_key_pk` PRIMARY KEY(`project_id`,`key`)
);
--> statement-breakpoint
CREATE TABLE `variables` (
	`project_id` varchar(36) NOT NULL,
	`environment` varchar(40) NOT NULL,
	`name` varchar(80) NOT NULL,
	`kind` varchar(10) NOT NULL,
	`sealed` longblob NOT NULL,
	`set_by` varchar(36) NOT NULL,
	`set_at` bigint NOT NULL,
	`used_at` bigint,
	CONSTRAINT `variables_project_id_environment_name_pk` PRIMARY KEY(`project_id`,`environment`,`name`)
);
--> statement-breakpoint
ALTER TABLE `attempt_steps` ADD `after` json;--> statement-breakpoint
ALTER TABLE `attempt_steps` ADD `tries` int DEFAULT 1 NOT NULL;--> statement-breakpoint
ALTER TABLE `attempt_steps` ADD `reused` json;--> statement-breakpoint
ALTER TABLE `attempts` ADD `segments` json;--> statement-breakpoint
ALTER TABLE `attempts` ADD `tools` json;--> statement-breakpoint
ALTER TABLE `builds` ADD `input_key` varchar(64);--> statement-breakpoint
ALTER TABLE `builds` ADD `reused_from` int;--> statement-breakpoint
ALTER TABLE `builds` ADD `earlier` varchar(10) DEFAULT 'used' NOT NULL;--> statement-breakpoint
ALTER TABLE `builds` ADD `priority` int DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE `log_chunks` ADD `segments` json;--> statement-breakpoint
CREATE INDEX `evidence_build` ON `evidence` (`build_id`);--> statement-breakpoint
CREATE INDEX `builds_input` ON `builds` (`project_id`,`input_key`);